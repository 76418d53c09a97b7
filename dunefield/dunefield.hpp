// Everything a program needs to mesh, run and read a case.
#pragma once

#include <dunefield/balance/balance.hpp>
#include <dunefield/balance/frontal_area.hpp>
#include <dunefield/balance/statistics.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/comparison.hpp>
#include <dunefield/campaign/variant_mesh.hpp>
#include <dunefield/flow/mapping.hpp>
#include <dunefield/geometry/health.hpp>
#include <dunefield/geometry/mending.hpp>
#include <dunefield/geometry/shapes.hpp>
#include <dunefield/geometry/stance.hpp>
#include <dunefield/geometry/stl.hpp>
#include <dunefield/geometry/surface_file.hpp>
#include <dunefield/geometry/surface_query.hpp>
#include <dunefield/geometry/wheel.hpp>
#include <dunefield/look/pictures.hpp>
#include <dunefield/look/vtp.hpp>
#include <dunefield/mesh/cgns.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/mesh/vtu.hpp>

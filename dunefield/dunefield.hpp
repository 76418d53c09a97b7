// Everything a program needs to mesh, run and read a case.
#pragma once

#include <dunefield/balance/balance.hpp>
#include <dunefield/balance/statistics.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/comparison.hpp>
#include <dunefield/campaign/variant_mesh.hpp>
#include <dunefield/files/cgns.hpp>
#include <dunefield/files/vtp.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/geometry/health/health.hpp>
#include <dunefield/geometry/health/mending.hpp>
#include <dunefield/geometry/query/surface_query.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/stance.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>
#include <dunefield/look/pictures.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/record/mapping.hpp>

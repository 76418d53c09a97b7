// What a mesh does not show as the surface is, told in words: with a number and a place, the first
// few of each kind.
#pragma once

#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/geometry/open_edges.hpp>
#include <dunefield/mesh/dual/cavities.hpp>
#include <dunefield/mesh/dual/dents.hpp>
#include <dunefield/mesh/dual/dual.hpp>
#include <dunefield/mesh/dual/lost.hpp>
#include <dunefield/mesh/octree/coarse_facets.hpp>
#include <dunefield/mesh/octree/gaps.hpp>

namespace dunefield {

void report_joined(const JoinedEdges& joined, double distance, Findings& findings);
void report_cavities(const std::vector<Cavity>& cavities, Findings& findings);
void report_pockets(const DualMesh& dual, Findings& findings);
/// Where the vehicle is thinner than the mesh can show, or open.
void report_thickened(const DualMesh& dual, const Surface& vehicle, Findings& findings);
void report_dents(const FilledDents& dents, Findings& findings);
void report_unsound(const FilledDents& cells, Findings& findings);
void report_lost(const std::vector<LostPiece>& lost, Findings& findings);
void report_holes(const std::vector<LostPiece>& holes, Findings& findings);
void report_closed_gaps(const std::vector<NarrowGap>& gaps, Findings& findings);
/// Gaps that are open, but with few cells across.
void report_gaps(const std::vector<NarrowGap>& gaps, Findings& findings);
/// Curves made of facets that the mesh shows as such.
void report_facets(const CoarseFacets& facets, Findings& findings);
/// Parts that should be there but have no face in the mesh.
void report_missing_parts(const VolumeMesh& mesh, const Surface& vehicle, bool half,
                          Findings& findings);

}  // namespace dunefield

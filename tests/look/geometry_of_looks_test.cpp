// What is drawn, measured: cuts, levels, streamlines on fields that are known.
#include <gtest/gtest.h>

#include <map>
#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/look/clipped_sheet.hpp>
#include <dunefield/look/iso_surface.hpp>
#include <dunefield/look/levels.hpp>
#include <dunefield/look/plane_cut.hpp>
#include <dunefield/look/plane_raster.hpp>
#include <dunefield/look/streamlines.hpp>
#include <dunefield/look/vehicle_sheets.hpp>
#include <dunefield/look/vortex_cores.hpp>
#include <dunefield/look/wake.hpp>
#include <tests/look/made_up_record.hpp>

namespace dunefield::test {
namespace {

double linear(const Vec3& x) { return 3 + 2 * x.x - 1.5 * x.y + 0.5 * x.z; }
Vec3 at_rest(const Vec3&) { return {}; }
double nothing(const Vec3&) { return 0; }

TEST(PointWeights, CarryLinearFieldsExactlyOnARealMesh) {
  const VolumeMesh& m = ball_mesh().mesh;
  const CellFaces rows = faces_of_cells(m);
  std::vector<double> cells;
  for (const Vec3& x : m.cell_centre) cells.push_back(linear(x));
  const std::vector<double> points = PointWeights(m, rows, all_points(m)).of(cells);
  std::size_t wrong = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    bool used = std::abs(points[i] - linear(m.points[i])) > 1e-8;
    wrong += used;
  }
  EXPECT_LT(wrong, points.size() / 500) << "but for cells that say nothing across";
}

TEST(PlaneCut, IntegratesALinearFieldExactly) {
  VolumeMesh box = structured_mesh(7, 6, 5, [](const Vec3& a) {
    return Vec3{2 * a.x + 0.2 * a.y, a.y - 0.1 * a.z, a.z + 0.15 * a.x * a.x};
  });
  box.derive();
  const Record r = made_up_record(std::move(box), at_rest, linear);
  const FlowView view(r);
  const Plane plane{{1.03, 0, 0}, {1, 0, 0}};
  const PlaneCut cut(view, plane);
  // The mean of a linear field over an area is its value at the middle of the area.
  const double area = cut.area(), y = cut.integral("= y") / area, z = cut.integral("= z") / area;
  EXPECT_NEAR(cut.integral("pressure"), area * linear({1.03, y, z}), 1e-10 * area);
}

TEST(PlaneCut, OfAHalfModelHasBothSidesAndOddQuantitiesTurn) {
  const Record r = made_up_record(
      ball_mesh(true).mesh,
      [](const Vec3& x) {
        return Vec3{1, 0.3 * x.y, 0};
      },
      linear, true);
  const FlowView view(r);
  const PlaneCut cut(view, {{1.2, 0, 0}, {1, 0, 0}});
  EXPECT_NEAR(cut.area(), 4 * 2, 1e-6);
  EXPECT_NEAR(cut.integral("velocity y"), 0, 1e-9);
  EXPECT_GT(cut.integral("= y * y"), 1);
  const Sheet cells = cut.sheet("velocity x", true);
  EXPECT_TRUE(cells.facets);
  EXPECT_FALSE(cut.outlines().strands.empty());
  EXPECT_TRUE(PlaneCut(view, {{9, 0, 0}, {1, 0, 0}}).empty());
  EXPECT_FALSE(PlaneCut(view, {{0, 0, 0}, {0, 1, 0}}).empty()) << "on the centre plane itself";
}

TEST(Sheets, AreCutAtABoxExactly) {
  Sheet s;
  s.points = {{0, 0, 0}, {2, 0, 0}, {0, 2, 0}}, s.triangles = {{0, 1, 2}}, s.values = {0, 2, 0};
  const Sheet c = clipped_to(s, {{-1, -1, -1}, {0.5, 1, 1}});
  double area = 0, most = 0;
  for (const auto& t : c.triangles) {
    area += 0.5 * norm(cross(c.points[at(t[1])] - c.points[at(t[0])],
                             c.points[at(t[2])] - c.points[at(t[0])]));
    for (const int i : t) most = std::max(most, c.values[at(i)]);
  }
  EXPECT_NEAR(area, 0.5, 1e-12);
  EXPECT_NEAR(most, 0.5, 1e-12) << "values go along";
}

TEST(Levels, AreLinkedAndLabelled) {
  const Record r = made_up_record(ball_mesh().mesh, at_rest, [](const Vec3& x) { return x.x; });
  const FlowView view(r);
  const Sheet s = PlaneCut(view, {{0, 1.5, 0}, {0, 1, 0}}).sheet("pressure");
  const Bundle lines = level_lines(s, {-1.05, 0.55});
  ASSERT_EQ(lines.strands.size(), 2u) << "each in one piece through all cells";
  for (const Strand& l : lines.strands)
    for (const Vec3& p : l.points) EXPECT_NEAR(p.x, l.values[0], 1e-6);
  const std::vector<Mark> labels = level_labels(lines, 1.0);
  ASSERT_EQ(labels.size(), 2u);
  EXPECT_EQ(labels[1].text, "0.55");
}

/// Distances of a mesh's cells from a place.
std::vector<double> distances(const VolumeMesh& m, const Vec3& from) {
  std::vector<double> d;
  for (const Vec3& x : m.cell_centre) d.push_back(norm(x - from));
  return d;
}

TEST(IsoSurface, OfASpheresDistanceIsClosedOnARealMesh) {
  const Record r = made_up_record(ball_mesh().mesh, at_rest, nothing);
  const FlowView view(r);
  const Sheet s = iso_surface_of(view, distances(*r.mesh, {0, 0, 1}), 0.75);
  ASSERT_FALSE(s.triangles.empty());
  std::map<std::pair<int, int>, int> edges;
  for (const auto& t : s.triangles)
    for (int k = 0; k < 3; ++k) ++edges[{t[at(k)], t[at((k + 1) % 3)]}];
  for (const auto& [edge, count] : edges) {
    EXPECT_EQ(count, 1);
    EXPECT_TRUE(edges.count({edge.second, edge.first})) << "each edge has its other side";
  }
  for (std::size_t i = 0; i < s.points.size(); ++i)
    EXPECT_LT(dot(s.normals[i], s.points[i] - Vec3{0, 0, 1}), 0) << "to smaller values";
}

TEST(IsoSurface, OfASpheresDistanceIsWithinAHundredthOfACell) {
  const int n = 48;
  VolumeMesh m = structured_mesh(n, n, n, [](const Vec3& a) { return a; });
  m.derive();
  const Record r = made_up_record(std::move(m), at_rest, nothing);
  const FlowView view(r);
  const Sheet s = iso_surface_of(view, distances(*r.mesh, {}), 0.9);
  ASSERT_GT(s.points.size(), 1000u);
  double off = 0;
  for (const Vec3& p : s.points)
    off += std::abs(norm(p) - 0.9) / static_cast<double>(s.points.size());
  EXPECT_LT(off * n, 0.01) << "cells";
}

TEST(Streamlines, OfSolidBodyRotationCloseAfterTenTurns) {
  // About an upright axis beside the ball, which is too far away to matter.
  const Vec3 axis{1.2, 0.9, 0};
  const Record r = made_up_record(
      ball_mesh().mesh,
      [&](const Vec3& x) {
        return cross({0, 0, 1}, x - axis);
      },
      nothing);
  const FlowView view(r);
  const double radius = 0.45, turns = 10;
  StreamlineOptions o;
  o.length = turns * 2 * std::numbers::pi * radius;
  const auto lines = streamlines(view, {axis + Vec3{radius, 0, 1}}, o);
  ASSERT_EQ(lines.size(), 1u);
  EXPECT_FALSE(lines[0].stopped);
  const Vec3 off = lines[0].points.back() - axis;
  EXPECT_NEAR(std::hypot(off.x, off.y) / radius, 1, 1e-3);
  EXPECT_NEAR(lines[0].points.back().z, 1, 1e-3);
  EXPECT_NEAR(lines[0].time.back(), turns * 2 * std::numbers::pi, 0.05);
}

/// Round an upright cylinder of radius 1 without friction, on a ring of cells.
Record cylinder() {
  VolumeMesh m = structured_mesh(
      120, 60, 2,
      [](const Vec3& a) {
        const double angle = -2 * std::numbers::pi * a.x, radius = std::exp(a.y * std::log(12.0));
        return Vec3{radius * std::cos(angle), radius * std::sin(angle), a.z};
      },
      true);
  m.derive();
  for (Boundary& b : m.boundaries)
    b.kind = b.name == "y-"   ? BoundaryKind::part
             : b.name == "y+" ? BoundaryKind::outflow
                              : BoundaryKind::side;
  return made_up_record(
      std::move(m),
      [](const Vec3& x) {
        const double r2 = x.x * x.x + x.y * x.y;
        return Vec3{1 - (x.x * x.x - x.y * x.y) / (r2 * r2), -2 * x.x * x.y / (r2 * r2), 0};
      },
      nothing);
}

TEST(Streamlines, KeepTheStreamFunctionRoundACylinder) {
  const Record r = cylinder();
  const FlowView view(r);
  std::vector<Vec3> seeds;
  for (const double y : {0.2, 0.5, 1.0, 2.0}) seeds.push_back({-4, y, 0.5});
  StreamlineOptions o;
  o.length = 9;
  const auto psi = [](const Vec3& x) { return x.y * (1 - 1 / (x.x * x.x + x.y * x.y)); };
  for (const Streamline& l : streamlines(view, seeds, o)) {
    ASSERT_GT(l.points.back().x, 2) << "past the cylinder";
    for (const Vec3& p : l.points) {
      EXPECT_NEAR(psi(p) / psi(l.points.front()), 1, 0.02);
      EXPECT_GT(std::hypot(p.x, p.y), 0.999) << "never inside";
    }
    EXPECT_NEAR(psi(l.points.back()) / psi(l.points.front()), 1, 0.005);
  }
}

TEST(Streamlines, NoneEndsInsideTheBodyAndSeedsThatDoAreTold) {
  // Past a ball: potential flow, which is along the wall there.
  const Record r = made_up_record(
      ball_mesh(true).mesh,
      [](const Vec3& x) {
        const Vec3 d = x - Vec3{0, 0, 1};
        const double n = norm(d), k = 0.5 * 0.125 / (n * n * n);
        return Vec3{1 + k, 0, 0} - d * (3 * k * d.x / (n * n));
      },
      nothing, true);
  const FlowView view(r);
  std::vector<Vec3> seeds;
  for (int i = 0; i < 400; ++i)
    seeds.push_back({-1.9, -0.6 + 1.2 * (i % 20) / 19.0, 0.4 + 1.2 * (i / 20) / 19.0});
  seeds.push_back({0, 0, 1});
  const auto lines = streamlines(view, seeds);
  int stopped = 0;
  for (std::size_t i = 0; i + 1 < lines.size(); ++i) {
    ASSERT_TRUE(lines[i].in_air);
    for (const Vec3& p : lines[i].points) EXPECT_GT(norm(p - Vec3{0, 0, 1}), 0.48);
    EXPECT_EQ(lines[i].points.front().y < 0, seeds[i].y < 0) << "each on its side";
    stopped += lines[i].stopped;
  }
  EXPECT_LE(stopped, 4) << "one in a hundred";
  EXPECT_FALSE(lines.back().in_air);
  // Backward from behind, and both ways.
  StreamlineOptions both;
  both.direction = Direction::both;
  const Streamline l = streamlines(view, {{0, 1.5, 1}}, both)[0];
  EXPECT_LT(l.points.front().x, -1.9);
  EXPECT_GT(l.points.back().x, 1.9);
  EXPECT_LT(l.time.front(), 0);
  EXPECT_EQ(AlongLines(view, "speed").of(l).size(), l.points.size());
}

TEST(VortexCores, FollowAVortexAlongTheStreamWithItsCirculation) {
  // Lamb and Oseen's vortex beside the ball, in a stream.
  const double circulation = 3, radius = 0.2;
  const Record r = made_up_record(
      ball_mesh().mesh,
      [&](const Vec3& x) {
        const double y = x.y - 0.8, z = x.z - 1.6, r2 = y * y + z * z + 1e-12;
        const double swirl = circulation / (2 * std::numbers::pi * r2) *
                             (1 - std::exp(-r2 / (radius * radius))) *
                             (1 + 0.2 * std::exp(-x.x * x.x));
        return Vec3{1, -swirl * z, swirl * y};
      },
      nothing);
  const FlowView view(r);
  const auto cores = vortex_cores(view);
  ASSERT_FALSE(cores.empty());
  for (const Vec3& p : cores[0].points) {
    EXPECT_NEAR(p.y, 0.8, 0.1);
    EXPECT_NEAR(p.z, 1.6, 0.1);
  }
  EXPECT_GT(cores[0].circulation, 0.1) << "right-handed about the stream";
  EXPECT_LT(cores[0].circulation, 1.1 * circulation);
  EXPECT_EQ(core_lines(cores).strands.size(), cores.size());
}

TEST(Wake, IsTheAreaThatHasLostItsTotalPressure) {
  // In air at rest total Cp is twice the pressure: below a half for |y| < 0.3.
  const Record r = made_up_record(
      ball_mesh(true).mesh, at_rest, [](const Vec3& x) { return 0.25 * x.y / 0.3; }, true);
  const WakeSection w = wake_section(FlowView(r), {{1.2, 0, 0}, {1, 0, 0}});
  EXPECT_NEAR(w.area, 2 * 0.3 * 2, 1e-3);
  EXPECT_NEAR(w.centre.y, 0, 1e-6);
  EXPECT_NEAR(w.centre.z, 1, 1e-3);
}

TEST(FlowTexture, StreaksAlongTheFlow) {
  PlaneRaster r;
  r.across = {1, 0, 0}, r.up = {0, 1, 0}, r.pixel = 1, r.width = 120, r.height = 120;
  r.value.assign(r.index(0, r.height), {1, 0, 0}), r.there.assign(r.value.size(), 1);
  const PlaneTexture t = flow_texture(r, 30);
  double along = 0, across = 0;
  for (int y = 20; y < 100; ++y)
    for (int x = 20; x < 100; ++x) {
      const auto shade = [&](int i, int j) { return static_cast<double>(t.shade[r.index(i, j)]); };
      along += std::abs(shade(x + 1, y) - shade(x, y));
      across += std::abs(shade(x, y + 1) - shade(x, y));
    }
  EXPECT_LT(along, 0.3 * across);
}

TEST(Vehicle, ValuesGoOnSmoothlyAndBreakAtEdges) {
  const auto even = [](const Vec3& x) { return 3 + 2 * x.x + 0.5 * x.z; };
  const Record r = made_up_record(ball_mesh(true).mesh, at_rest, even, true);
  const FlowView view(r);
  const auto sheets = vehicle_sheets(view, "pressure");
  ASSERT_EQ(sheets.size(), 1u);
  int wrong = 0;
  for (std::size_t i = 0; i < sheets[0].points.size(); ++i) {
    const Vec3 x{sheets[0].points[i].x, std::abs(sheets[0].points[i].y), sheets[0].points[i].z};
    wrong += std::abs(sheets[0].values[i] - even(x)) > 0.03;  // a hundredth of the values
    EXPECT_NEAR(norm(sheets[0].normals[i]), 1, 1e-9);
  }
  EXPECT_LE(wrong, 6) << "but at slivers";
  const Record rising = made_up_record(
      ball_mesh(true).mesh, at_rest, [](const Vec3& x) { return x.x; }, true);
  const auto stagnation = stagnation_points(FlowView(rising), 0.0, 1);
  ASSERT_EQ(stagnation.size(), 1u);
  EXPECT_GT(stagnation[0].place.x, 0.35) << "where pressure is most";
}

TEST(Vehicle, BackwardAreasAreThoseOfShearAgainstTheStream) {
  const Record r = made_up_record(
      ball_mesh(true).mesh,
      [](const Vec3& x) {
        return Vec3{x.z > 1 ? 1.0 : -1.0, 0, 0};
      },
      nothing, true);
  const auto areas = backward_areas(r);
  ASSERT_EQ(areas.size(), 1u);
  EXPECT_NEAR(areas[0].of, std::numbers::pi, 0.05) << "of the whole ball";
  EXPECT_NEAR(areas[0].area / areas[0].of, 0.5, 0.03);
  const FlowView view(r);
  EXPECT_FALSE(tufts(view, 0.1).strands.empty());
}

}  // namespace
}  // namespace dunefield::test

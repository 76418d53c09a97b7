// Pictures and charts, by what is in them.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shapes/wing.hpp>
#include <dunefield/look/charts.hpp>
#include <dunefield/look/film.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/look/scene_files.hpp>
#include <dunefield/look/words.hpp>
#include <tests/look/made_up_record.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

const Record& ball() { return half_ball(); }
std::shared_ptr<const FlowView> view() { return view_of_half_ball(); }

bool alike(const Colour& a, const Colour& b, double by = 0.02) {
  return std::abs(a.r - b.r) < by && std::abs(a.g - b.g) < by && std::abs(a.b - b.b) < by;
}

TEST(Picture, ShowsTheVehicleInItsColoursOnPaper) {
  const Image image = render(Picture(view()).surface("pressure").view("rear").size(400, 300));
  EXPECT_EQ(image.width, 400);
  EXPECT_TRUE(alike(image.at(5, 150), paper_colours(false).paper));
  const Colour middle = image.at(200, 120);
  EXPECT_GT(middle.r, middle.b + 0.1) << "high pressure is red, seen from behind";
  const Image front = render(Picture(view()).surface("pressure").view("front").size(400, 300));
  EXPECT_GT(front.at(200, 120).b, front.at(200, 120).r + 0.1);
  const Image dark = render(Picture(view()).surface().size(400, 300).dark());
  EXPECT_TRUE(alike(dark.at(5, 150), paper_colours(true).paper));
}

TEST(Picture, ASliceAloneIsSeenSquarelyWithTheBodyCutThrough) {
  SliceLook look;
  look.quantity = "velocity x";
  look.region = {{-1.9, -1, 0.4}, {1.9, 1, 1.6}};
  const Scene s = Picture(view()).slice(look).range("velocity x", 0, 1).scene();
  EXPECT_TRUE(s.flat);
  const Image image = render(s);
  EXPECT_LT(image.height, 800) << "no higher than it needs";
  const Colour solid = image.at(image.width / 2, image.height / 2 - 10);
  EXPECT_TRUE(alike(solid, {0.66, 0.65, 0.63})) << solid.r << " " << solid.g << " " << solid.b;
  EXPECT_TRUE(alike(image.at(200, image.height / 2 - 10), palette_colour(Palette::dune, 1)));
}

TEST(Picture, LinesOfEqualValueNeverGoRoundTheCells) {
  SliceLook look;
  look.quantity = "pressure", look.lines = 8;
  const auto points = [&] {
    std::size_t n = 0;
    for (const Bundle& b : Picture(view()).slice(look).scene().bundles)
      for (const Strand& s : b.strands) n += s.points.size();
    return n;
  };
  const std::size_t smooth = points();
  ASSERT_GT(smooth, 0u);
  look.as_cells = true;
  EXPECT_EQ(points(), smooth) << "with cells of one colour, too";
}

TEST(Picture, ARangeIsFittedToWhatFillsThePicture) {
  Sheet sheet;  // a square metre of small values, and many points of large ones in a corner
  const auto square = [&](double side, double value) {
    const int n = static_cast<int>(sheet.points.size());
    for (const Vec3& p : {Vec3{}, Vec3{side, 0, 0}, Vec3{side, side, 0}, Vec3{0, side, 0}})
      sheet.points.push_back(p), sheet.values.push_back(value);
    sheet.triangles.push_back({n, n + 1, n + 2}), sheet.triangles.push_back({n, n + 2, n + 3});
  };
  square(1, 3);
  for (int i = 0; i < 100; ++i) square(0.01, 750);
  std::vector<ShownValue> shown;
  add_shown(sheet, shown);
  const ColourScale scale = scale_for(*view(), "stream vorticity", shown);
  EXPECT_LT(scale.most, 10);
  EXPECT_NE(scale.title.find("beyond"), std::string::npos) << scale.title;
}

TEST(Picture, WhatIsInFrontHidesAndWhatIsTranslucentDoesNot) {
  Scene s;
  const auto square = [](double x, Colour c, double opacity) {
    Sheet one;
    one.points = {{x, -1, -1}, {x, 1, -1}, {x, 1, 1}, {x, -1, 1}};
    one.triangles = {{0, 1, 2}, {0, 2, 3}};
    one.colour = c, one.opacity = opacity, one.lit = false;
    return one;
  };
  s.frame = {{-1, -1, -1}, {1, 1, 1}};
  s.view.from = {-1, 0, 0};
  s.width = s.height = 200;
  s.sheets = {square(0.5, {0, 0, 1}, 1), square(-0.5, {1, 0, 0}, 1)};
  EXPECT_TRUE(alike(render(s).at(100, 100), {1, 0, 0}));
  s.sheets[1].opacity = 0.25;
  EXPECT_TRUE(alike(render(s).at(100, 100), {0.25, 0, 0.75}));
  s.sheets[1].opacity = 0;
  EXPECT_TRUE(alike(render(s).at(100, 100), {0, 0, 1}));
  // A line before both.
  s.bundles = {{"line", "", {{{{-0.9, -1, 0}, {-0.9, 1, 0}}, {}}}, 0.2, {0, 1, 0}, false}};
  EXPECT_TRUE(alike(render(s).at(100, 100), {0, 1, 0}));
}

TEST(Picture, OfASheetsTwoSidesTheOneThatLooksAtTheEyeIsSeen) {
  Scene s;
  // Both lie in one oblique plane, cut into triangles differently.
  const auto side = [](double outward, Colour c) {
    Sheet one;
    one.points = {{-0.3, -1, -1}, {-0.1, 1, -1}, {0.3, 1, 1}, {0.1, -1, 1}};
    if (outward < 0)
      one.triangles = {{0, 3, 1}, {1, 3, 2}};
    else
      one.triangles = {{0, 1, 2}, {0, 2, 3}};
    one.normals.assign(4, unit(Vec3{1, -0.1, -0.2}) * outward);
    one.colour = c;
    return one;
  };
  s.frame = {{-1, -1, -1}, {1, 1, 1}};
  s.width = s.height = 200;
  s.sheets = {side(1, {0.9, 0, 0}), side(-1, {0, 0, 0.9})};
  for (const double from : {1.0, -1.0}) {
    s.view.from = {from, 0.1, 0.2};
    const Image image = render(s);
    int red = 0, blue = 0;
    for (const Colour& c : image.pixels) red += c.r > c.b + 0.2, blue += c.b > c.r + 0.2;
    EXPECT_GT(std::max(red, blue), 10'000);
    EXPECT_LT(std::min(red, blue), 20) << "mixed by chance";
    EXPECT_EQ(red > blue, from > 0);
  }
}

TEST(Picture, ShowsARectangleOnAHalfModelsCentrePlane) {
  const SliceLook look = slice_look("y = 0, from = (-1 m, 0, 0.2 m), to = (1 m, 0, 1 m)", &ball());
  const Scene s = Picture(view()).slice(look).scene();
  ASSERT_FALSE(s.sheets.empty());
  Box shown;
  for (const auto& t : s.sheets.front().triangles)
    for (const int p : t) shown.include(s.sheets.front().points[at(p)]);
  EXPECT_NEAR(shown.size().x, 2, 0.02);
  EXPECT_NEAR(shown.size().z, 0.8, 0.02);
}

TEST(Picture, RefusesWhatCannotBeDrawn) {
  const auto refusal = [](const std::function<void()>& work) -> std::string {
    try {
      work();
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  };
  SliceLook away;
  away.plane.point.y = 7;
  EXPECT_NE(refusal([&] { Picture(view()).slice(away); }).find("misses the air"),
            std::string::npos);
  EXPECT_NE(refusal([] { render(Picture(view()).surface().size(0, 0)); }).find("0 x 0"),
            std::string::npos);
  EXPECT_NE(refusal([] { render(Picture(view()).surface().size(100'000, 10)); }).find("100000"),
            std::string::npos);
  EXPECT_NE(refusal([] { Picture(view()).surface("Cq"); }).find("it has"), std::string::npos);
  EXPECT_NE(refusal([] {
              Picture(view()).smoke(std::vector<Vec3>{{0, 0, 1}});
            }).find("no seed"),
            std::string::npos);
  EXPECT_NE(refusal([] { Picture(view()).range("Cp", 1, -1); }).find("is empty"),
            std::string::npos);
  EXPECT_NE(refusal([] { Picture(view()).view("fron"); }).find("three-quarter"), std::string::npos);
  VolumeLook high;
  high.level = 99;
  EXPECT_NE(refusal([&] { Picture(view()).volume(high); }).find("another level"),
            std::string::npos);
  SurfaceLook parts;
  parts.hidden = {"bonnet"};
  EXPECT_NE(refusal([&] { Picture(view()).surface(parts); }).find("it has ball"),
            std::string::npos);
  const Record other = made_up_record(
      [] {
        VolumeMesh m = structured_mesh(3, 3, 3, [](const Vec3& a) { return a * 9.0; });
        m.derive();
        return m;
      }(),
      [](const Vec3&) { return Vec3{}; }, [](const Vec3&) { return 0.0; });
  EXPECT_NE(refusal([&] { FlowView change(ball(), &other); }).find("different vehicles"),
            std::string::npos);
}

TEST(Picture, TheChangeFromItselfIsNothing) {
  const auto change = std::make_shared<const FlowView>(ball(), &ball());
  for (const double v : change->in_air("Cp")) EXPECT_NEAR(v, 0, 1e-9);
  const VolumeMesh& m = *ball().mesh;
  const std::vector<double> wall = change->on_wall("Cp");
  for (const Boundary& b : m.boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f)
      EXPECT_NEAR(wall[at(f - m.interior_faces())], 0, 1e-9);
  EXPECT_NE(Picture(change).scene().title.find("change from 'made up'"), std::string::npos);
}

TEST(Charts, TheAreaOfAWingsSectionIsItsLift) {
  // A wing of one section from end to end, under a pressure that is alike in all its sections.
  WingShape shape;
  shape.section = four_digit_section("2412"), shape.leading_edge = {0, 0, 1};
  shape.span = 1, shape.root_chord = shape.tip_chord = 0.5, shape.turned_over = false;
  MeshOptions o;
  o.surface_size = 0.02, o.largest_size = 0.32, o.smallest_size = 0.005;
  o.cells_per_turn = 32, o.edge_size = 0.005;
  const auto p = [](const Vec3& x) {  // suction above, pressure below, most near the nose
    return 20 * (1 + 0.02 * x.x - x.z) * std::exp(-3 * x.x);
  };
  const Record wing = made_up_record(
      build_mesh(make_wing(shape), Box{{-1, -1.4, 0}, {1.5, 1.4, 2}}, o).mesh,
      [](const Vec3&) {
        return Vec3{1, 0, 0};
      },
      p);
  double lift = 0;
  for (std::size_t i = 0; i < wing.loads.size(); ++i) {
    const std::size_t f = at(wing.mesh->interior_faces()) + i;
    if (std::abs(wing.mesh->face_centre[f].z - 1) < 0.2 &&
        std::abs(wing.mesh->face_centre[f].y) < 0.6 && wing.mesh->face_centre[f].x < 0.8)
      lift += wing.loads[i].pressure_at * wing.mesh->face_area[f].z;
  }
  ASSERT_GT(lift, 0.1);
  const Chart chart = chart_of({std::make_shared<const FlowView>(wing)}, "section, y = 0.1 m, Cp");
  // Area between the curve's two branches, each piece counted by the side it lies on.
  const ChartLine& cut = chart.panels[0].lines[0];
  double area = 0;
  for (std::size_t i = 1; i < cut.x.size(); ++i)
    if (std::isfinite(cut.y[i]) && std::isfinite(cut.y[i - 1]))
      area += 0.5 * (cut.y[i] + cut.y[i - 1]) * std::abs(cut.x[i] - cut.x[i - 1]) *
              (cut.y[i] + cut.y[i - 1] > 0 ? 1 : -1);
  EXPECT_NEAR(std::abs(area) * wing.reference.dynamic_pressure() * shape.span / lift, 1, 0.01);
}

TEST(Charts, AreOfOneRecordOrSeveral) {
  const TemporaryFolder folder;
  Record r = ball();
  for (int i = 1; i <= 50; ++i) {
    HistoryRow h;
    h.iteration = i, h.c.cd = 0.3 + 1.0 / i, h.momentum_residual = 1.0 / i;
    r.history.push_back(h);
  }
  const Chart history = history_chart({&r});
  EXPECT_EQ(history.panels.size(), 3u);
  EXPECT_EQ(history.panels[0].lines[0].y.size(), 50u);
  draw_chart(folder / "h.svg", history);
  const std::string svg = read_text(folder / "h.svg");
  EXPECT_NE(svg.find("<svg"), std::string::npos);
  EXPECT_NE(svg.find("</svg>"), std::string::npos);
  EXPECT_THROW(spectrum_chart({&r}), InputError) << "it has no time";
  Record swings = r;
  for (HistoryRow& h : swings.history)
    h.time = 0.01 * h.iteration, h.c.cl = std::sin(2 * 3.14159265 * 12 * h.time);
  EXPECT_EQ(history_chart({&swings}).x_title, "time, s");
  const Chart spectrum = chart_of({std::make_shared<const FlowView>(swings)}, "spectrum");
  const ChartLine& cl = spectrum.panels.at(1).lines.at(0);
  const auto top = std::max_element(cl.y.begin(), cl.y.end()) - cl.y.begin();
  EXPECT_NEAR(cl.x[at(top)], 12, 3);
  swings.probes.probes = {{"tail", 0, {1, 0, 1}}};
  for (const HistoryRow& h : swings.history) {
    swings.probes.time.push_back(h.time);
    swings.probes.values.push_back(static_cast<float>(40 + h.c.cl));
  }
  const Views timed = {std::make_shared<const FlowView>(swings)};
  const Chart tap = chart_of(timed, "spectrum, tap = tail");
  const ChartLine& pressure = tap.panels.at(0).lines.at(0);
  EXPECT_NEAR(
      pressure.x[at(std::max_element(pressure.y.begin(), pressure.y.end()) - pressure.y.begin())],
      12, 3);
  EXPECT_NE(chart_of(timed, "history, tap = tail").footer.find("pressure 40"), std::string::npos);
  EXPECT_THROW(chart_of(timed, "spectrum, tap = tial"), InputError);
  EXPECT_THROW(chart_of(timed, "spectrum, rake = tail"), InputError);
  const Chart section = chart_of({view(), view()}, "section, y = 0, pressure");
  ASSERT_EQ(section.panels[0].lines.size(), 2u);
  const ChartLine& cut = section.panels[0].lines[0];
  for (std::size_t i = 0; i < cut.x.size(); ++i) {
    if (!std::isfinite(cut.y[i])) continue;
    EXPECT_NEAR(cut.y[i], 0.5 * cut.x[i], 0.03);
  }
  const Chart line =
      chart_of({view()}, "line, from = (-1.5 m, 1 m, 1 m), to = (1.5 m, 1 m, 1 m), pressure");
  EXPECT_NEAR(line.panels[0].lines[0].y[0], -0.75, 1e-6);
  EXPECT_NE(chart_csv(line).find("m along the line"), std::string::npos);
  EXPECT_THROW(chart_of({view()}, "sweep"), InputError) << "nothing differs";
  EXPECT_THROW(chart_of({view()}, "histroy"), InputError);
  EXPECT_THROW(chart_of({view()}, "section, y = 9 m"), InputError);
  Record fast = r;
  fast.run.speed = 2;
  std::vector<Figures> runs = {fast.figures(), r.figures()};
  const Chart sweep = sweep_chart(runs);
  ASSERT_EQ(sweep.panels[0].lines.size(), 1u);
  ASSERT_EQ(sweep.panels[0].lines[0].x.size(), 2u);
  EXPECT_NEAR(sweep.panels[0].lines[0].x[0], 3.6, 1e-9) << "sorted";
  EXPECT_NEAR(sweep.panels[0].lines[0].x[1], 7.2, 1e-9);
  // Two yaws at each of two speeds are two lines, not one that goes to and fro.
  for (std::size_t i = 0; i < 2; ++i) {
    runs.push_back(runs[i]);
    runs[i].run.settings = {{yaw_key, "0 deg"}}, runs.back().run.settings = {{yaw_key, "5 deg"}};
  }
  const Chart both = sweep_chart(runs);
  ASSERT_EQ(both.panels[0].lines.size(), 2u);
  EXPECT_EQ(both.panels[0].lines[1].name, "made up, yaw 5 deg");
  EXPECT_EQ(both.panels[0].lines[1].x.size(), 2u);
}

}  // namespace
}  // namespace dunefield::test

#include <dunefield/look/picture.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>
#include <dunefield/look/clipped_sheet.hpp>
#include <dunefield/look/iso_surface.hpp>
#include <dunefield/look/levels.hpp>
#include <dunefield/look/plane_cut.hpp>
#include <dunefield/look/plane_raster.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/look/smoke_shapes.hpp>
#include <dunefield/look/vehicle_sheets.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/record/points.hpp>

namespace dunefield {
namespace {

bool contains(const std::vector<std::string>& list, const std::string& name) {
  return std::find(list.begin(), list.end(), name) != list.end();
}

std::string plane_in_words(const Plane& p) {
  for (int axis = 0; axis < 3; ++axis)
    if (std::abs(std::abs(p.normal[axis]) - 1) < 1e-9)
      return fmt::format("{} = {:.3g} m", "xyz"[axis],
                         std::abs(p.point[axis]) < 1e-3 ? 0.0 : p.point[axis]);
  return fmt::format("plane through ({:.2f}, {:.2f}, {:.2f}) m", p.point.x, p.point.y, p.point.z);
}

/// Round levels; not the ends of the range, where the undisturbed air often is.
std::vector<double> levels_inside(const ColourScale& s, int wanted) {
  std::vector<double> levels = round_marks(s.least, s.most, wanted);
  const double near = 1e-6 * (s.most - s.least);
  std::erase_if(levels, [&](double v) { return v < s.least + near || v > s.most - near; });
  return levels;
}

int bands_of(const ColourScale& s, int bands) {
  return bands == round_steps ? round_bands(s.least, s.most) : bands;
}

std::vector<double> edges_of_bands(const ColourScale& s, int wanted) {
  const int bands = bands_of(s, wanted);
  std::vector<double> edges;
  for (int i = 1; i < bands; ++i) edges.push_back(s.least + (s.most - s.least) * i / bands);
  return edges;
}

/// Where a part of the frame is not finite or the box is thin, slices have no region: at least a
/// little.
Box grown(Box b, double by) {
  b.lo -= Vec3{by, by, by}, b.hi += Vec3{by, by, by};
  return b;
}

}  // namespace

Box surroundings(const Record& r) {
  const Box& v = r.vehicle;
  const double length = characteristic_length(v);
  Box b{{v.lo.x - 0.45 * length, v.lo.y - 0.35 * length,
         std::max(r.tunnel.lo.z, v.lo.z - 0.35 * length)},
        {v.hi.x + 0.95 * length, v.hi.y + 0.35 * length, v.hi.z + 0.35 * length}};
  if (!flies(v)) b.lo.z = 0;
  return b;
}

Picture::Picture(const Record& record) : Picture(std::make_shared<FlowView>(record)) {}
Picture::Picture(std::shared_ptr<const FlowView> view) : view_(std::move(view)) {
  scene_.title = title_of(view_->record());
  if (view_->is_change()) scene_.title += ", change from '" + view_->baseline_name() + "'";
  scene_.fitted_height = true;
  scene_.road = !flies(view_->record().vehicle);
}

void Picture::check_parts(const std::vector<std::string>& parts) const {
  for (const std::string& p : parts) {
    std::vector<std::string> known;
    for (const Boundary& b : view_->mesh().boundaries)
      if (b.kind == BoundaryKind::part) known.push_back(b.name);
    if (!contains(known, p))
      throw InputError("the vehicle has no part '" + p + "'", view_->record().run.variant,
                       fmt::format("it has {}", fmt::join(known, ", ")));
  }
}

Picture& Picture::surface(const std::string& quantity) {
  SurfaceLook look;
  look.quantity = quantity;
  return surface(look);
}

Picture& Picture::surface(const SurfaceLook& look) {
  for (const auto* list : {&look.only, &look.hidden, &look.translucent}) check_parts(*list);
  std::vector<Sheet> sheets = vehicle_sheets(*view_, look.quantity, look.oil_flow);
  std::erase_if(sheets, [&](const Sheet& s) {
    return contains(look.hidden, s.name) || (!look.only.empty() && !contains(look.only, s.name));
  });
  constexpr double seen_through = 0.25;
  for (Sheet& s : sheets)
    s.opacity = contains(look.translucent, s.name) ? seen_through : look.opacity;
  if (look.bands != 0) bands_[look.quantity] = look.bands;
  add_vehicle_lines(look, sheets);
  for (Sheet& s : sheets) scene_.sheets.push_back(std::move(s));
  vehicle_ = true, ++things_;
  return *this;
}

void Picture::add_vehicle_lines(const SurfaceLook& look, const std::vector<Sheet>& sheets) {
  const double length = view_->record().vehicle.size().x;
  if (look.lines > 0) {
    const ColourScale scale = scale_for(*view_, look.quantity, [&] {
      std::vector<double> all;
      for (const Sheet& s : sheets) all.insert(all.end(), s.values.begin(), s.values.end());
      return all;
    }());
    for (const Sheet& s : sheets) {
      Bundle lines = level_lines(s, levels_inside(scale, look.lines));
      for (Strand& one : lines.strands) one.values.clear();
      scene_.bundles.push_back(std::move(lines));
    }
  }
  if (look.tufts) scene_.bundles.push_back(tufts(*view_, 0.02 * length));
  if (look.turning_lines) {
    TurningLines lines = turning_lines(*view_);
    lines.separation.radius = lines.attachment.radius = 0.0012 * length;
    scene_.bundles.push_back(std::move(lines.separation));
    scene_.bundles.push_back(std::move(lines.attachment));
    scene_.note =
        "red: the flow along the surface turns backward (separates); green: forward again";
  }
  if (look.stagnation)
    for (const StagnationPoint& p : stagnation_points(*view_))
      scene_.marks.push_back({p.place, fmt::format("Cp {:.2f}", p.cp)});
}

Picture& Picture::slice(const SliceLook& look) {
  const PlaneCut cut(*view_, look.plane);
  if (cut.empty())
    throw InputError(
        "the plane " + plane_in_words(look.plane) + " misses the air", view_->record().run.variant,
        fmt::format("the tunnel goes from ({:.2f}, {:.2f}, {:.2f}) to ({:.2f}, {:.2f}, "
                    "{:.2f}) m",
                    view_->record().tunnel.lo.x, view_->record().tunnel.lo.y,
                    view_->record().tunnel.lo.z, view_->record().tunnel.hi.x,
                    view_->record().tunnel.hi.y, view_->record().tunnel.hi.z));
  Box region = look.region;
  if (region.empty()) {  // wherever the plane is, it is seen
    region = surroundings(view_->record());
    const Vec3 off = look.plane.point - region.centre();
    region.include(region.centre() + look.plane.normal * dot(off, look.plane.normal));
  }
  for (int axis = 0; axis < 3; ++axis)  // how far it reaches across the plane is of no account
    if (std::abs(look.plane.normal[axis]) > 1 - 1e-9)
      region.lo[axis] = region.hi[axis] = look.plane.point[axis];
  // a region may be a rectangle on the plane, and a half model's plane lies just beside its own
  region = grown(region, 1e-3 * std::max(0.1, norm(view_->record().vehicle.size())));
  const Sheet whole = cut.sheet(look.quantity, look.as_cells);
  Sheet sheet = clipped_to(whole, region);
  sheet.name = "slice " + plane_in_words(look.plane);
  if (sheet.triangles.empty())
    throw InputError(sheet.name + " has nothing in the region that is shown",
                     view_->record().run.variant, "move the plane, or give a larger region");
  if (look.bands != 0) bands_[look.quantity] = look.bands;
  if (look.lines > 0) {
    const ColourScale scale = scale_for(*view_, look.quantity, sheet.values);
    Bundle lines = level_lines(sheet, look.bands != 0 ? edges_of_bands(scale, look.bands)
                                                      : levels_inside(scale, look.lines));
    const std::vector<Mark> labels = level_labels(lines, 0.12 * region.size().x);
    if (look.filled)
      for (Strand& one : lines.strands) one.values.clear();
    else
      lines.quantity = look.quantity;
    scene_.bundles.push_back(std::move(lines));
    scene_.marks.insert(scene_.marks.end(), labels.begin(), labels.end());
  }
  if (look.outlines) {
    Bundle cells = cut.outlines();
    std::erase_if(cells.strands, [&](const Strand& s) {
      return std::any_of(s.points.begin(), s.points.end(),
                         [&](const Vec3& p) { return !region.contains(p); });
    });
    scene_.bundles.push_back(std::move(cells));
  }
  if (look.arrows || look.texture) {
    const std::vector<Vec3> velocity = cut.velocity();
    const Sheet points = cut.sheet_of({});
    if (look.texture) {
      const double pixel = std::max({region.size().x, region.size().y, region.size().z}) / 1400;
      constexpr double streak = 36;  // pixels
      sheet.texture = std::make_shared<PlaneTexture>(
          flow_texture(rastered(points, velocity, cut.plane(), region, pixel), streak));
    }
    if (look.arrows) add_arrows(look, points, velocity, region);
  }
  if (!look.filled)
    sheet.values.clear(), sheet.quantity.clear(), sheet.colour = paper_colours(scene_.dark).paper;
  scene_.title += ", " + plane_in_words(look.plane);
  only_slice_ = look.plane;
  if (!framed_ && scene_.frame.empty()) scene_.frame = region;
  scene_.sheets.push_back(std::move(sheet));
  ++things_;
  return *this;
}

void Picture::add_arrows(const SliceLook& look, const Sheet& sheet,
                         const std::vector<Vec3>& velocity, const Box& region) {
  const PlaneAxes axes(look.plane.normal);
  const auto extent = [&](const Vec3& way) {
    return std::abs(region.size().x * way.x) + std::abs(region.size().y * way.y) +
           std::abs(region.size().z * way.z);
  };
  const double spacing = std::max(extent(axes.across), extent(axes.up)) / 44;
  const PlaneRaster grid = rastered(sheet, velocity, look.plane, region, spacing);
  Bundle arrows;
  arrows.name = "arrows", arrows.lit = false;
  std::vector<std::pair<Vec3, Vec3>> all;
  double fastest = 0;
  for (int y = 0; y < grid.height; ++y)
    for (int x = 0; x < grid.width; ++x) {
      if (!grid.there[grid.index(x, y)]) continue;
      Vec3 u = grid.value[grid.index(x, y)];
      u -= look.plane.normal * dot(u, look.plane.normal);
      all.push_back({grid.place(x, y), u});
      fastest = std::max(fastest, norm(u));
    }
  for (const auto& [place, u] : all) {
    const double size = norm(u) / fastest;
    if (size < 0.02) continue;
    // The longest ones reach over two spacings: few are as fast.
    const double length = spacing * (look.even_arrows ? 0.8 : std::min(1.8, 2.5 * size));
    const Vec3 half = unit(u) * (0.5 * length);
    arrows.strands.push_back({{place - half, place + half}, {}});
  }
  add_heads(arrows, 0.28 * spacing, look.plane.normal);
  scene_.bundles.push_back(std::move(arrows));
}

Picture& Picture::smoke(const std::vector<Vec3>& seeds) {
  SmokeLook look;
  look.seeds = seeds;
  return smoke(look);
}

Picture& Picture::smoke(const SmokeLook& look) {
  std::vector<Streamline> lines =
      streamlines(*view_, look.seeds.empty() ? nose_rake(view_->record()) : look.seeds, look.how);
  SmokeReport report{look.name, static_cast<int>(lines.size())};
  for (const Streamline& l : lines) report.outside += !l.in_air, report.stopped += l.stopped;
  if (report.outside == report.lines)
    throw InputError("no seed of the smoke '" + look.name + "' lies in the air",
                     view_->record().run.variant,
                     "they are inside the vehicle or outside the tunnel");
  smoke_reports_.push_back(report);
  // What is far away is of no interest, and would be all that is seen.
  Box region = surroundings(view_->record());
  region.hi.x -= 0.15 * view_->record().vehicle.size().x;
  for (Streamline& l : lines) {
    std::size_t first = 0, last = l.points.size();
    while (first < last && !region.contains(l.points[first])) ++first;
    std::size_t end = first;
    while (end < last && region.contains(l.points[end])) ++end;
    const auto keep = [&](auto& v) {
      v.erase(v.begin() + static_cast<std::ptrdiff_t>(end), v.end());
      v.erase(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(first));
    };
    keep(l.points), keep(l.time), keep(l.cell);
  }
  std::vector<std::vector<double>> values;
  const auto along = [&](const std::string& quantity) {
    const AlongLines q(*view_, quantity);
    std::vector<std::vector<double>> out;
    for (const Streamline& l : lines) out.push_back(q.of(l));
    return out;
  };
  if (!look.quantity.empty()) values = along(look.quantity);
  const double usual = 0.0013 * std::cbrt(region.size().x * region.size().y * region.size().z);
  if (look.form == SmokeLook::Form::ribbons) {
    scene_.sheets.push_back(smoke_ribbons(look, lines, values, along("stream vorticity"),
                                          look.radius > 0 ? look.radius : 3.5 * usual));
  } else {
    Bundle b = smoke_bundle(look, lines, values, usual);
    if (b.arrows) add_heads(b, 10 * usual, {0, 0, 1});
    scene_.bundles.push_back(std::move(b));
  }
  only_slice_.reset(), ++things_;
  return *this;
}

Picture& Picture::volume(const VolumeLook& look) {
  Sheet s =
      iso_surface(*view_, look.quantity, look.level,
                  grown(surroundings(view_->record()), 0.2 * view_->record().vehicle.size().x));
  const Quantity q = quantity_named(view_->record(), look.quantity);
  s.name = fmt::format("{} = {:.4g}{}{}", q.name, look.level, q.unit.empty() ? "" : " ", q.unit);
  if (s.triangles.empty())
    throw InputError("nowhere near the vehicle is " + s.name, view_->record().run.variant,
                     "choose another level");
  s.opacity = look.opacity;
  s.colour = {0.36, 0.52, 0.60};
  if (!look.coloured_by.empty()) {
    s.quantity = look.coloured_by;
    const Sampler sampler(view_->mesh());
    const std::vector<double> cells = view_->in_air(look.coloured_by);
    for (const Vec3& p : s.points) {
      const Vec3 x = meshed_side(p, view_->half());
      const int c = view_->cell_at(x);
      s.values.push_back(c < 0 ? cells[at(view_->nearest_cell(x))] : sampler.value_in(c, cells, x));
    }
  }
  scene_.title += ", " + s.name;
  scene_.sheets.push_back(std::move(s));
  only_slice_.reset(), ++things_;
  return *this;
}

Picture& Picture::cores(const VortexOptions& look) {
  Bundle lines = core_lines(vortex_cores(*view_, look));
  if (lines.strands.empty())
    throw InputError("no vortex is as strong and as long as asked for", view_->record().run.variant,
                     "lower weakest or shortest");
  lines.radius = 0.004 * view_->record().vehicle.size().x;
  double most = 0;
  for (const Strand& s : lines.strands) most = std::max(most, std::abs(s.values[0]));
  if (!scene_.scales.count(lines.quantity))
    scene_.scales[lines.quantity] = {Palette::balance, -most, most, "circulation, m2/s"};
  scene_.bundles.push_back(std::move(lines));
  only_slice_.reset(), ++things_;
  return *this;
}

Picture& Picture::without_vehicle() { return bare_ = true, *this; }
Picture& Picture::mark(const Mark& m) { return scene_.marks.push_back(m), *this; }
Picture& Picture::view(const View& v) { return scene_.view = v, *this; }
Picture& Picture::view(const std::string& name) { return view(named_view(name)); }
Picture& Picture::size(int width, int height) {
  return scene_.width = width, scene_.height = height, scene_.fitted_height = false, *this;
}
Picture& Picture::dark(bool on) { return scene_.dark = on, *this; }
Picture& Picture::title(const std::string& text) { return scene_.title = text, *this; }
Picture& Picture::frame(const Box& box) { return scene_.frame = box, framed_ = true, *this; }

Picture& Picture::range(const std::string& quantity, double least, double most) {
  if (!(least < most))
    throw InputError(
        fmt::format("the range of {} from {:.4g} to {:.4g} is empty", quantity, least, most),
        view_->record().run.variant, "give the smaller end first");
  ColourScale s = scale_for(*view_, quantity, {});
  s.least = least, s.most = most;
  if (least < 0 && most > 0 && std::abs(least + most) < 1e-9 * most) s.palette = Palette::balance;
  scene_.scales[quantity] = s;
  return *this;
}

Scene Picture::scene() const {
  Scene s = scene_;
  const Record& r = view_->record();
  std::map<std::string, std::vector<double>> shown;
  for (const Sheet& one : s.sheets)
    if (!one.values.empty()) {
      auto& all = shown[one.quantity];
      all.insert(all.end(), one.values.begin(), one.values.end());
    }
  for (const Bundle& one : s.bundles)
    for (const Strand& strand : one.strands) {
      auto& all = shown[one.quantity];
      all.insert(all.end(), strand.values.begin(), strand.values.end());
    }
  for (auto& [quantity, values] : shown)
    if (!quantity.empty() && !s.scales.count(quantity))
      s.scales[quantity] = scale_for(*view_, quantity, std::move(values));
  for (auto& [quantity, scale] : s.scales)
    if (const auto b = bands_.find(quantity); b != bands_.end())
      scale.bands = bands_of(scale, b->second);
  if (things_ == 1 && only_slice_) {  // seen squarely, with the body cut through
    s.flat = true, s.flat_point = only_slice_->point;
    const Vec3& n = only_slice_->normal;
    s.view = {};
    s.view.from =
        std::abs(n.y) > 0.7 ? n * (n.y > 0 ? -1.0 : 1.0) : n * (n.x + n.z > 0 ? 1.0 : -1.0);
  }
  if (!vehicle_ && !bare_)
    for (Sheet& one : vehicle_sheets(*view_, "")) s.sheets.push_back(std::move(one));
  if (s.frame.empty() || (!framed_ && !s.flat)) {
    s.frame = r.vehicle;
    if (things_ > 1 || !vehicle_) {
      s.frame.lo.x -= 0.3 * r.vehicle.size().x, s.frame.hi.x += 0.6 * r.vehicle.size().x;
      s.frame.hi.z += 0.1 * r.vehicle.size().z;
    }
  }
  return s;
}

Image render(const Picture& picture) { return render(picture.scene()); }

}  // namespace dunefield

#include <dunefield/look/picture.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>
#include <dunefield/look/iso_surface.hpp>
#include <dunefield/look/levels.hpp>
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
      std::vector<ShownValue> all;
      for (const Sheet& s : sheets) add_shown(s, all);
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
  Box region = surroundings(view_->record());
  const double more = 0.2 * view_->record().vehicle.size().x;
  region.lo -= Vec3{more, more, more}, region.hi += Vec3{more, more, more};
  Sheet s = iso_surface(*view_, look.quantity, look.level, region);
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
  std::map<std::string, std::vector<ShownValue>> shown;
  for (const Sheet& one : s.sheets)
    if (!one.values.empty()) add_shown(one, shown[one.quantity]);
  for (const Bundle& one : s.bundles) add_shown(one, shown[one.quantity]);
  for (auto& [quantity, values] : shown)
    if (!quantity.empty() && !s.scales.count(quantity))
      s.scales[quantity] = scale_for(*view_, quantity, std::move(values));
  for (auto& [quantity, scale] : s.scales)
    if (const auto b = bands_.find(quantity); b != bands_.end())
      scale.bands = bands_of(scale, b->second);
  if (things_ == 1 && only_slice_) {  // seen squarely, with the body cut through
    s.flat = true, s.flat_point = only_slice_->point;
    const Vec3& n = only_slice_->normal;
    s.view.perspective = false;
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

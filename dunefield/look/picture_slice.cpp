// What a picture shows of a slice.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/look/clipped_sheet.hpp>
#include <dunefield/look/levels.hpp>
#include <dunefield/look/picture.hpp>
#include <dunefield/look/plane_cut.hpp>
#include <dunefield/look/plane_raster.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/look/smoke_shapes.hpp>

namespace dunefield {
namespace {

std::string plane_in_words(const Plane& p) {
  for (int axis = 0; axis < 3; ++axis)
    if (std::abs(std::abs(p.normal[axis]) - 1) < 1e-9)
      return fmt::format("{} = {:.3g} m", "xyz"[axis],
                         std::abs(p.point[axis]) < 1e-3 ? 0.0 : p.point[axis]);
  return fmt::format("plane through ({:.2f}, {:.2f}, {:.2f}) m", p.point.x, p.point.y, p.point.z);
}

std::string in_words(const Box& tunnel) {
  return fmt::format("the tunnel goes from ({:.2f}, {:.2f}, {:.2f}) to ({:.2f}, {:.2f}, {:.2f}) m",
                     tunnel.lo.x, tunnel.lo.y, tunnel.lo.z, tunnel.hi.x, tunnel.hi.y, tunnel.hi.z);
}

std::shared_ptr<PlaneTexture> texture_of(const PlaneCut& cut, const Box& region) {
  const double pixel = std::max({region.size().x, region.size().y, region.size().z}) / 1400;
  constexpr double streak = 36;  // pixels
  return std::make_shared<PlaneTexture>(
      flow_texture(rastered(cut.sheet_of({}), cut.velocity(), cut.plane(), region, pixel), streak));
}

}  // namespace

Picture& Picture::slice(const SliceLook& look) {
  const Record& record = view_->record();
  const PlaneCut cut(*view_, look.plane);
  if (cut.empty())
    throw InputError("the plane " + plane_in_words(look.plane) + " misses the air",
                     record.run.variant, in_words(record.tunnel));
  const Box region = region_of(look);
  Sheet sheet = clipped_to(cut.sheet(look.quantity, look.as_cells), region);
  sheet.name = "slice " + plane_in_words(look.plane);
  if (sheet.triangles.empty())
    throw InputError(sheet.name + " has nothing in the region that is shown", record.run.variant,
                     "move the plane, or give a larger region");
  if (look.bands != 0) bands_[look.quantity] = look.bands;
  if (look.lines > 0)  // of values between the cells: lines of cells' own are boxes around each
    add_slice_lines(look, look.as_cells ? clipped_to(cut.sheet(look.quantity), region) : sheet,
                    region.size().x);
  if (look.outlines) add_outlines(cut, region);
  if (look.texture) sheet.texture = texture_of(cut, region);
  if (look.arrows) add_arrows(look, cut.sheet_of({}), cut.velocity(), region);
  if (!look.filled)
    sheet.values.clear(), sheet.quantity.clear(), sheet.colour = paper_colours(scene_.dark).paper;
  scene_.title += ", " + plane_in_words(look.plane);
  only_slice_ = look.plane;
  if (!framed_ && scene_.frame.empty()) scene_.frame = region;
  scene_.sheets.push_back(std::move(sheet));
  ++things_;
  return *this;
}

/// What a slice shows of its plane.
Box Picture::region_of(const SliceLook& look) const {
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
  const double little = 1e-3 * std::max(0.1, norm(view_->record().vehicle.size()));
  region.lo -= Vec3{little, little, little}, region.hi += Vec3{little, little, little};
  return region;
}

void Picture::add_slice_lines(const SliceLook& look, const Sheet& sheet, double width) {
  std::vector<ShownValue> shown;
  add_shown(sheet, shown);
  const ColourScale scale = scale_for(*view_, look.quantity, std::move(shown));
  Bundle lines = level_lines(sheet, look.bands != 0 ? edges_of_bands(scale, look.bands)
                                                    : levels_inside(scale, look.lines));
  const std::vector<Mark> labels = level_labels(lines, 0.12 * width);
  if (look.filled)
    for (Strand& one : lines.strands) one.values.clear();
  else
    lines.quantity = look.quantity;
  scene_.bundles.push_back(std::move(lines));
  scene_.marks.insert(scene_.marks.end(), labels.begin(), labels.end());
}

void Picture::add_outlines(const PlaneCut& cut, const Box& region) {
  Bundle cells = cut.outlines();
  std::erase_if(cells.strands, [&](const Strand& s) {
    return std::any_of(s.points.begin(), s.points.end(),
                       [&](const Vec3& p) { return !region.contains(p); });
  });
  scene_.bundles.push_back(std::move(cells));
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

}  // namespace dunefield

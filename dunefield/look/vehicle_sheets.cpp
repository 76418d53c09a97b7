#include <dunefield/look/vehicle_sheets.hpp>

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include <dunefield/base/error.hpp>
#include <dunefield/look/levels.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {
namespace {

constexpr double crease = 0.77;  // cosine of 40 degrees: a sharper edge parts what lies beside it

/// Wall faces of the vehicle, gathered at the points as far as they lie smoothly together.
class SmoothWall {
 public:
  explicit SmoothWall(const FlowView& view)
      : m_(view.mesh()), wall_(vehicle_triangles(m_, view.half())) {
    Surface& s = wall_.surface;
    if (view.half()) {  // both sides share what lies on the centre plane
      const int points = static_cast<int>(s.points.size() / 2);
      const double on_it = 1e-9 * std::max(1.0, view.record().vehicle.size().x);
      for (auto& t : s.triangles)
        for (int& p : t)
          if (p >= points && std::abs(s.points[at(p)].y) < on_it) p -= points;
    }
    first_mirrored_ = view.half() ? s.size() / 2 : s.size();
    std::vector<int> count(s.points.size() + 1, 0);
    for (const auto& t : s.triangles)
      for (const int p : t) ++count[at(p) + 1];
    for (std::size_t i = 0; i + 1 < count.size(); ++i) count[i + 1] += count[i];
    std::vector<int> next(count.begin(), count.end() - 1), corner(3 * s.size());
    for (std::size_t t = 0; t < s.size(); ++t)
      for (int k = 0; k < 3; ++k)
        corner[at(next[at(s.triangles[t][at(k)])]++)] = static_cast<int>(3 * t) + k;
    vertex_.resize(3 * s.size());
    for (std::size_t p = 0; p < s.points.size(); ++p)
      gather(static_cast<int>(p), &corner[at(count[p])], count[p + 1] - count[p]);
  }

  /// At each vertex from its faces, exactly for what is linear along the wall.
  template <class T>
  std::vector<T> at_vertices(const std::vector<T>& faces, const std::vector<T>& mirrored) const {
    std::vector<T> out(place.size(), T{});
    for (std::size_t v = 0; v < place.size(); ++v)
      for (std::size_t k = first_[v]; k < first_[v + 1]; ++k) {
        const auto f = at(terms_[k].face - m_.interior_faces());
        out[v] += (terms_[k].mirrored ? mirrored : faces)[f] * terms_[k].weight;
      }
    return out;
  }
  std::array<int, 3> corners(std::size_t t) const {
    return {vertex_[3 * t], vertex_[3 * t + 1], vertex_[3 * t + 2]};
  }
  const Surface& surface() const { return wall_.surface; }

  std::vector<Vec3> place, normal;  ///< of the vertices

 private:
  struct Term {
    int face;
    bool mirrored;
    double weight;
  };
  struct Group {
    Vec3 normal;
    int vertex;
    std::vector<Term> terms;
  };

  /// Corners at a point whose facets lie within the crease of each other share a vertex. A sliver's
  /// direction says nothing: it joins those that it lies nearest to.
  void gather(int point, const int* corner, int count) {
    std::vector<int> order(corner, corner + count);
    const auto area_of = [&](int c) { return norm(m_.face_area[at(wall_.face_of[at(c) / 3])]); };
    std::stable_sort(order.begin(), order.end(),
                     [&](int a, int b) { return area_of(a) > area_of(b); });
    constexpr double sliver = 0.01;  // of the largest face there
    std::vector<Group> groups;
    for (const int c : order) {
      const std::size_t t = at(c) / 3;
      const Term term{wall_.face_of[t], t >= first_mirrored_, 0};
      const Vec3 outward = -m_.face_area[at(term.face)];
      const Vec3 area = term.mirrored ? in_mirror(outward) : outward, n = unit(area);
      auto g = std::max_element(groups.begin(), groups.end(), [&](const Group& a, const Group& b) {
        return dot(unit(a.normal), n) < dot(unit(b.normal), n);
      });
      const bool fits = g != groups.end() && (dot(unit(g->normal), n) > crease ||
                                              norm(area) < sliver * area_of(order.front()));
      if (!fits) {
        g = groups.insert(groups.end(), {Vec3{}, static_cast<int>(place.size()), {}});
        place.push_back(wall_.surface.points[at(point)]);
      }
      vertex_[at(c)] = g->vertex;
      const bool known = std::any_of(g->terms.begin(), g->terms.end(), [&](const Term& k) {
        return k.face == term.face && k.mirrored == term.mirrored;
      });
      if (!known) g->normal += area, g->terms.push_back(term);
    }
    for (Group& g : groups) {
      normal.push_back(unit(g.normal));
      weigh(g);
      first_.push_back(first_.back() + g.terms.size());
      terms_.insert(terms_.end(), g.terms.begin(), g.terms.end());
    }
  }

  void weigh(Group& g) const {
    const std::size_t n = g.terms.size();
    std::vector<Vec3> way(n);
    std::vector<double> base(n), weight(n);
    double all = 0;
    for (std::size_t k = 0; k < n; ++k) {
      const Vec3& centre = m_.face_centre[at(g.terms[k].face)];
      way[k] = (g.terms[k].mirrored ? in_mirror(centre) : centre) - place[at(g.vertex)];
      base[k] = 1 / std::max(norm2(way[k]), 1e-30);
      all += base[k];
      way[k] -= normal.back() * dot(way[k], normal.back());
    }
    const bool sound = n > 2 && linear_weights(way, base, weight);
    for (std::size_t k = 0; k < n; ++k) g.terms[k].weight = sound ? weight[k] : base[k] / all;
  }

  const VolumeMesh& m_;
  WallTriangles wall_;
  std::size_t first_mirrored_ = 0;
  std::vector<int> vertex_;
  std::vector<std::size_t> first_ = {0};
  std::vector<Term> terms_;
};

std::vector<Vec3> all_mirrored(std::vector<Vec3> v) {
  for (Vec3& one : v) one = in_mirror(one);
  return v;
}

std::vector<double> scalar_at_vertices(const FlowView& view, const SmoothWall& wall,
                                       const std::string& quantity) {
  return wall.at_vertices(view.on_wall(quantity), view.half()
                                                      ? view.on_wall(quantity, Side::mirrored)
                                                      : std::vector<double>());
}

std::vector<Vec3> shear_at_vertices(const FlowView& view, const SmoothWall& wall) {
  const std::vector<Vec3> shear = vector_on_wall(view.record(), "wall shear");
  std::vector<Vec3> out =
      wall.at_vertices(shear, view.half() ? all_mirrored(shear) : std::vector<Vec3>());
  for (std::size_t v = 0; v < out.size(); ++v)
    out[v] -= wall.normal[v] * dot(out[v], wall.normal[v]);
  return out;
}

/// The part's own vertices, numbered anew.
Sheet part_sheet(const SmoothWall& wall, int part, const std::vector<double>& values,
                 const std::vector<Vec3>& flow) {
  Sheet s;
  s.name = wall.surface().part_names[at(part)];
  std::unordered_map<int, int> number;
  const auto own = [&](int v) {
    const auto [it, fresh] = number.try_emplace(v, static_cast<int>(s.points.size()));
    if (fresh) {
      s.points.push_back(wall.place[at(v)]), s.normals.push_back(wall.normal[at(v)]);
      if (!values.empty()) s.values.push_back(values[at(v)]);
      if (!flow.empty()) s.flow.push_back(flow[at(v)]);
    }
    return it->second;
  };
  for (std::size_t t = 0; t < wall.surface().size(); ++t) {
    if (wall.surface().part_of[t] != part) continue;
    const auto [a, b, c] = wall.corners(t);
    s.triangles.push_back({own(a), own(b), own(c)});
  }
  return s;
}

}  // namespace

std::vector<Sheet> vehicle_sheets(const FlowView& view, const std::string& quantity, bool flow) {
  const SmoothWall wall(view);
  if (wall.surface().size() == 0)
    throw InputError("there is no vehicle to draw", view.record().run.variant, "look at slices");
  const std::vector<double> values =
      quantity.empty() ? std::vector<double>() : scalar_at_vertices(view, wall, quantity);
  const std::vector<Vec3> shear = flow ? shear_at_vertices(view, wall) : std::vector<Vec3>();
  std::vector<Sheet> sheets;
  for (std::size_t p = 0; p < wall.surface().part_names.size(); ++p) {
    Sheet s = part_sheet(wall, static_cast<int>(p), values, shear);
    s.quantity = quantity;
    if (!s.triangles.empty()) sheets.push_back(std::move(s));
  }
  return sheets;
}

std::vector<StagnationPoint> stagnation_points(const FlowView& view, double least,
                                               std::size_t most) {
  std::vector<StagnationPoint> candidates, kept;
  constexpr double squeezed = 1.1;  // more than the stream can give: between a tyre and the road
  for (const Sheet& s : vehicle_sheets(view, "Cp"))
    for (std::size_t i = 0; i < s.points.size(); ++i)
      if (s.values[i] >= least && s.values[i] <= squeezed)
        candidates.push_back({s.points[i], s.values[i], s.name});
  std::sort(candidates.begin(), candidates.end(),
            [](const StagnationPoint& a, const StagnationPoint& b) { return a.cp > b.cp; });
  const double apart = 0.1 * view.record().vehicle.size().x;
  for (const StagnationPoint& c : candidates) {
    if (kept.size() >= most) break;
    if (std::all_of(kept.begin(), kept.end(),
                    [&](const StagnationPoint& k) { return norm(k.place - c.place) > apart; }))
      kept.push_back(c);
  }
  return kept;
}

std::vector<BackwardArea> backward_areas(const Record& r) {
  const VolumeMesh& m = *r.mesh;
  const std::vector<double> against = scalar_on_wall(r, "shear against the stream");
  const double sides = r.run.half ? 2 : 1;
  std::vector<BackwardArea> out;
  for (const Boundary& b : m.boundaries) {
    if (b.kind != BoundaryKind::part || b.count == 0) continue;
    BackwardArea& one = out.emplace_back();
    one.part = b.name;
    for (int f = b.first; f < b.first + b.count; ++f) {
      const double area = sides * norm(m.face_area[at(f)]);
      one.of += area;
      if (against[at(f - m.interior_faces())] > 0) one.area += area;
    }
  }
  return out;
}

TurningLines turning_lines(const FlowView& view) {
  TurningLines out;
  out.separation.name = "separation", out.attachment.name = "attachment";
  out.separation.colour = {0.75, 0.20, 0.16}, out.attachment.colour = {0.16, 0.42, 0.30};
  for (Sheet& s : vehicle_sheets(view, "shear against the stream", true)) {
    // Close to nothing it turns again and again: only where the stream sweeps along the surface.
    Bundle lines = level_lines(s, {0.0});
    std::unordered_map<long long, std::size_t> unused;
    for (Strand& line : lines.strands) {
      double length = 0;
      for (std::size_t i = 1; i < line.points.size(); ++i)
        length += norm(line.points[i] - line.points[i - 1]);
      constexpr double shortest = 0.03;  // of the vehicle's length
      if (length < shortest * view.record().vehicle.size().x) continue;
      // Which side of the line is forward: by the nearest vertex upstream.
      const Vec3& middle = line.points[line.points.size() / 2];
      double nearest = 1e300, against = 0;
      for (std::size_t v = 0; v < s.points.size(); ++v) {
        const Vec3 d = s.points[v] - middle;
        if (d.x >= 0) continue;
        if (norm2(d) < nearest) nearest = norm2(d), against = s.values[v];
      }
      line.values.clear();
      (against < 0 ? out.separation : out.attachment).strands.push_back(std::move(line));
    }
  }
  return out;
}

Bundle tufts(const FlowView& view, double spacing) {
  Bundle b;
  b.name = "tufts", b.colour = {0.10, 0.10, 0.11};
  std::unordered_map<long long, char> taken;
  for (const Sheet& s : vehicle_sheets(view, "", true))
    for (std::size_t i = 0; i < s.points.size(); ++i) {
      const Vec3& p = s.points[i];
      const auto slot = [&](double v) {
        return static_cast<long long>(std::floor(v / spacing)) + 100'000;
      };
      const long long key = (slot(p.x) * 1'000'000 + slot(p.y)) * 1'000'000 + slot(p.z);
      if (!(norm(s.flow[i]) > 0) || !taken.emplace(key, 1).second) continue;
      const Vec3 root = p + s.normals[i] * (0.02 * spacing);
      b.strands.push_back({{root, root + unit(s.flow[i]) * (0.75 * spacing)}, {}});
    }
  b.radius = 0.03 * spacing;
  return b;
}

}  // namespace dunefield

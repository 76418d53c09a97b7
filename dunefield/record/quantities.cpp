#include <dunefield/record/quantities.hpp>

#include <functional>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>
#include <dunefield/record/sampler.hpp>

namespace dunefield {
namespace {

template <class T>
using Maker = std::function<std::vector<T>(const Record&)>;

/// One quantity and how it comes about; the makers it does not have are empty.
struct Entry {
  Quantity quantity;
  Maker<double> scalar_in_air, scalar_on_wall;
  Maker<Vec3> vector_in_air, vector_on_wall;
};

template <class T, class Value>
std::vector<T> per_cell(const Record& r, const Value& value) {
  std::vector<T> out(r.fields.u.size());
  parallel_for(
      out.size(), [&](std::size_t c) { out[c] = value(c); }, 8192);
  return out;
}

template <class T, class Value>
std::vector<T> per_face(const Record& r, const Value& value) {
  std::vector<T> out;
  out.reserve(r.loads.size());
  for (std::size_t i = 0; i < r.loads.size(); ++i) out.push_back(value(i));
  return out;
}

double pascals(const Record& r, std::size_t c) {
  return r.reference.density * r.fields.p[c] - r.balance.undisturbed_pressure;
}

std::vector<double> pressure(const Record& r) {
  return per_cell<double>(r, [&](std::size_t c) { return pascals(r, c); });
}
std::vector<double> wall_pressure(const Record& r) {
  return per_face<double>(
      r, [&](std::size_t i) { return r.loads[i].pressure_at - r.balance.undisturbed_pressure; });
}
std::vector<double> over_dynamic_pressure(const Record& r, std::vector<double> values) {
  for (double& v : values) v /= r.reference.dynamic_pressure();
  return values;
}
std::vector<double> total_cp(const Record& r) {
  const double q = r.reference.dynamic_pressure(), u2 = r.reference.speed * r.reference.speed;
  return per_cell<double>(
      r, [&](std::size_t c) { return pascals(r, c) / q + norm2(r.fields.u[c]) / u2; });
}
std::vector<Vec3> wall_shear(const Record& r) {
  const auto first = at(r.mesh->interior_faces());
  return per_face<Vec3>(
      r, [&](std::size_t i) { return r.loads[i].friction / norm(r.mesh->face_area[first + i]); });
}
std::vector<Vec3> vorticity(const Record& r) {
  const Sampler sampler(*r.mesh);
  return per_cell<Vec3>(r, [&](std::size_t c) {
    const Mat3 g = sampler.gradient(static_cast<int>(c), r.fields.u);
    return Vec3{g.row[2].y - g.row[1].z, g.row[0].z - g.row[2].x, g.row[1].x - g.row[0].y};
  });
}

/// All that there may be, those of the registry of fields among them.
std::vector<Entry> entries(const Record& r) {
  std::vector<Entry> all = {
      {{"velocity", "m/s", true, true, false},
       {},
       {},
       [](const Record& x) { return x.fields.u; },
       {}},
      {{"speed", "m/s", false, true, false, false},
       [](const Record& x) {
         return per_cell<double>(x, [&](std::size_t c) { return norm(x.fields.u[c]); });
       },
       {},
       {},
       {}},
      {{"pressure", "Pa", false, true, true}, pressure, wall_pressure, {}, {}},
      {{"Cp", "", false, true, true, true},
       [](const Record& x) { return over_dynamic_pressure(x, pressure(x)); },
       [](const Record& x) { return over_dynamic_pressure(x, wall_pressure(x)); },
       {},
       {}},
      {{"total Cp", "", false, true, false}, total_cp, {}, {}, {}},
      {{"vorticity", "1/s", true, true, false, false, true}, {}, {}, vorticity, {}},
      {{"wall shear", "Pa", true, false, true}, {}, {}, {}, wall_shear},
      {{"y+", "", false, false, true},
       {},
       [](const Record& x) {
         return per_face<double>(x, [&](std::size_t i) { return x.loads[i].y_plus; });
       },
       {},
       {}}};
  for_each_field([&]<class T>(const Field<T>& field) {
    if constexpr (std::is_same_v<T, double>) {
      if (field.values == &Fields::p || (r.fields.*field.values).empty()) return;
      all.push_back({{field.name, field.unit, false, true, false},
                     [values = field.values](const Record& x) { return x.fields.*values; },
                     {},
                     {},
                     {}});
    }
  });
  return all;
}

template <class T>
std::vector<T> made(const Record& r, const std::string& name, const char* where,
                    Maker<T> Entry::*maker) {
  std::string known;
  for (const Entry& e : entries(r)) {
    if (!(e.*maker)) continue;
    if (e.quantity.name == name) return (e.*maker)(r);
    known += (known.empty() ? "" : ", ") + e.quantity.name;
  }
  throw InputError(fmt::format("the record has no '{}' {}", name, where), r.run.variant,
                   "it has " + known);
}

}  // namespace

std::vector<Quantity> quantities(const Record& record) {
  std::vector<Quantity> list;
  for (const Entry& e : entries(record)) list.push_back(e.quantity);
  return list;
}

std::vector<double> scalar_in_air(const Record& r, const std::string& name) {
  return made(r, name, "as a number in the air", &Entry::scalar_in_air);
}
std::vector<Vec3> vector_in_air(const Record& r, const std::string& name) {
  return made(r, name, "as a vector in the air", &Entry::vector_in_air);
}
std::vector<double> scalar_on_wall(const Record& r, const std::string& name) {
  return made(r, name, "as a number on the wall", &Entry::scalar_on_wall);
}
std::vector<Vec3> vector_on_wall(const Record& r, const std::string& name) {
  return made(r, name, "as a vector on the wall", &Entry::vector_on_wall);
}

}  // namespace dunefield

#include <dunefield/record/quantities.hpp>

#include <algorithm>
#include <cctype>
#include <functional>

#include <fmt/format.h>
#include <muParser.h>

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
std::vector<Mat3> velocity_gradients(const Record& r) {
  const Sampler sampler(*r.mesh);
  return per_cell<Mat3>(
      r, [&](std::size_t c) { return sampler.gradient(static_cast<int>(c), r.fields.u); });
}
Vec3 curl(const Mat3& g) {
  return {g.row[2].y - g.row[1].z, g.row[0].z - g.row[2].x, g.row[1].x - g.row[0].y};
}
std::vector<Vec3> vorticity(const Record& r) {
  const std::vector<Mat3> g = velocity_gradients(r);
  return per_cell<Vec3>(r, [&](std::size_t c) { return curl(g[c]); });
}
/// Vorticity along the flow: how fast it turns about its own way.
std::vector<double> stream_vorticity(const Record& r) {
  const std::vector<Vec3> w = vorticity(r);
  return per_cell<double>(r, [&](std::size_t c) { return dot(w[c], unit(r.fields.u[c])); });
}
std::vector<double> helicity(const Record& r) {
  const std::vector<Vec3> w = vorticity(r);
  return per_cell<double>(r, [&](std::size_t c) { return dot(w[c], r.fields.u[c]); });
}
/// Second invariant of the velocity gradient (Hunt, Wray and Moin 1988): above zero where turning
/// is stronger than stretching.
std::vector<double> q_criterion(const Record& r) {
  const std::vector<Mat3> g = velocity_gradients(r);
  return per_cell<double>(r, [&](std::size_t c) {
    double sum = 0;
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j) sum -= 0.5 * g[c].row[i][j] * g[c].row[j][i];
    return sum;
  });
}
/// Velocity of the cells at the wall: where it goes, dirt and rain go.
std::vector<Vec3> near_wall_velocity(const Record& r) {
  const auto first = at(r.mesh->interior_faces());
  return per_face<Vec3>(
      r, [&](std::size_t i) { return r.fields.u[at(r.mesh->cell_below[first + i])]; });
}

Entry air_scalar(const char* name, const char* unit, Maker<double> make, bool odd = false) {
  return {{name, unit, false, true, false, false, false, odd}, std::move(make), {}, {}, {}};
}
Entry wall_scalar(const char* name, const char* unit, Maker<double> make) {
  return {{name, unit, false, false, true, false}, {}, std::move(make), {}, {}};
}

/// Pressures and velocities.
void add_flow(std::vector<Entry>& all) {
  all.push_back({{"velocity", "m/s", true, true, false},
                 {},
                 {},
                 [](const Record& x) { return x.fields.u; },
                 {}});
  all.push_back(air_scalar("speed", "m/s", [](const Record& x) {
    return per_cell<double>(x, [&](std::size_t c) { return norm(x.fields.u[c]); });
  }));
  all.push_back(air_scalar("speed ratio", "", [](const Record& x) {
    return per_cell<double>(x,
                            [&](std::size_t c) { return norm(x.fields.u[c]) / x.reference.speed; });
  }));
  for (const auto& [name, axis] :
       {std::pair{"velocity x", 0}, {"velocity y", 1}, {"velocity z", 2}})
    all.push_back(air_scalar(
        name, "m/s",
        [axis = axis](const Record& x) {
          return per_cell<double>(x, [&](std::size_t c) { return x.fields.u[c][axis]; });
        },
        axis == 1));
  all.push_back({{"pressure", "Pa", false, true, true}, pressure, wall_pressure, {}, {}});
  all.push_back({{"Cp", "", false, true, true, true},
                 [](const Record& x) { return over_dynamic_pressure(x, pressure(x)); },
                 [](const Record& x) { return over_dynamic_pressure(x, wall_pressure(x)); },
                 {},
                 {}});
  all.push_back(air_scalar("Mach number", "", [](const Record& x) {
    // Of air at its own temperature, or of a stream whose density does not change at 15 degC.
    return per_cell<double>(x, [&](std::size_t c) {
      const double t = x.fields.temperature.empty() ? 288.15 : x.fields.temperature[c];
      return norm(x.fields.u[c]) / FastAir{}.speed_of_sound(t);
    });
  }));
  all.push_back({{"total Cp", "", false, true, false}, total_cp, {}, {}, {}});
}

/// What is worked out by gradients.
void add_turning(std::vector<Entry>& all) {
  all.push_back({{"vorticity", "1/s", true, true, false, false, true}, {}, {}, vorticity, {}});
  all.push_back(air_scalar("stream vorticity", "1/s", stream_vorticity, true));
  all.push_back(air_scalar("helicity", "m/s2", helicity, true));
  all.push_back(air_scalar("Q", "1/s2", q_criterion));
}

void add_wall(std::vector<Entry>& all) {
  all.push_back({{"wall shear", "Pa", true, false, true}, {}, {}, {}, wall_shear});
  all.push_back(wall_scalar("shear against the stream", "Pa", [](const Record& x) {
    const std::vector<Vec3> shear = wall_shear(x);
    return per_face<double>(x, [&](std::size_t i) { return -shear[i].x; });
  }));
  all.push_back({{"near-wall velocity", "m/s", true, false, true}, {}, {}, {}, near_wall_velocity});
  all.push_back(wall_scalar("y+", "", [](const Record& x) {
    return per_face<double>(x, [&](std::size_t i) { return x.loads[i].y_plus; });
  }));
}

void add_sensitivities(const Record& r, std::vector<Entry>& all) {
  for (const auto& one : r.sensitivities)
    all.push_back({{"sensitivity of " + one.first, "1/(mm m2)", false, false, true},
                   {},
                   [of = one.first](const Record& x) { return x.sensitivities.at(of); },
                   {},
                   {}});
}

/// All that there may be, those of the registry of fields among them.
std::vector<Entry> entries(const Record& r) {
  std::vector<Entry> all;
  add_flow(all), add_turning(all), add_wall(all), add_sensitivities(r, all);
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

std::vector<double> lengths(const std::vector<Vec3>& vectors) {
  std::vector<double> out(vectors.size());
  for (std::size_t i = 0; i < out.size(); ++i) out[i] = norm(vectors[i]);
  return out;
}

/// A number by name, or the length of the vector of that name.
std::vector<double> number(const Record& r, const std::string& name, const char* where,
                           Maker<double> Entry::*scalar, Maker<Vec3> Entry::*vector, Side side) {
  std::string known;
  for (const Entry& e : entries(r)) {
    if (!(e.*scalar) && !(e.*vector)) continue;
    known += (known.empty() ? "" : ", ") + e.quantity.name;
    if (e.quantity.name != name) continue;
    if (!(e.*scalar)) return lengths((e.*vector)(r));
    std::vector<double> values = (e.*scalar)(r);
    if (side == Side::mirrored && e.quantity.odd)
      for (double& v : values) v = -v;
    return values;
  }
  throw InputError(fmt::format("the record has no '{}' {}", name, where), r.run.variant,
                   "it has " + known);
}

std::string identifier(const std::string& name) {
  std::string out;
  for (const unsigned char c : name) out += std::isalnum(c) ? static_cast<char>(c) : '_';
  return out;
}

struct Formula {
  std::string expression, unit;
};

/// `= expression [unit]`, the unit only where there is one.
Formula formula_in(const std::string& text) {
  const auto trimmed = [](std::string s) {
    s.erase(0, s.find_first_not_of(' '));
    s.erase(s.find_last_not_of(' ') + 1);
    return s;
  };
  const std::string all = trimmed(text.substr(1));
  const std::size_t bracket = all.ends_with(']') ? all.rfind('[') : std::string::npos;
  if (bracket == std::string::npos) return {all, ""};
  return {trimmed(all.substr(0, bracket)),
          trimmed(all.substr(bracket + 1, all.size() - bracket - 2))};
}

/// A formula of the numbers that there are, place by place.
/// @param places x, y, z of each value; @param values of a quantity by its name
std::vector<double> evaluated(
    const Record& r, const std::string& formula, const std::vector<Vec3>& places, Side side,
    const std::vector<std::string>& names,
    const std::function<std::vector<double>(const std::string&)>& values) {
  mu::Parser parser;
  std::vector<std::vector<double>> columns;
  try {
    parser.SetExpr(formula_in(formula).expression);
    std::vector<std::pair<std::string, const std::string*>> known;
    for (const std::string& n : names) known.push_back({identifier(n), &n});
    const auto used = parser.GetUsedVar();
    std::vector<std::string> wanted;
    for (const auto& [name, unused] : used) wanted.push_back(name);
    columns.reserve(wanted.size());
    for (const std::string& w : wanted) {
      columns.emplace_back(places.size(), r.reference.dynamic_pressure());
      if (w == "q") continue;
      if (w == "x" || w == "y" || w == "z") {
        for (std::size_t i = 0; i < places.size(); ++i)
          columns.back()[i] = w == "x"   ? places[i].x
                              : w == "z" ? places[i].z
                                         : (side == Side::mirrored ? -1 : 1) * places[i].y;
        continue;
      }
      const auto it =
          std::find_if(known.begin(), known.end(), [&](const auto& k) { return k.first == w; });
      if (it == known.end())
        throw InputError("the formula '" + formula + "' names '" + w + "', which is not there",
                         r.run.variant, fmt::format("it may use x, y, z, q, {}", [&] {
                           std::string all;
                           for (const auto& k : known) all += (all.empty() ? "" : ", ") + k.first;
                           return all;
                         }()));
      columns.back() = values(*it->second);
    }
    std::vector<double> row(wanted.size()), out(places.size());
    for (std::size_t k = 0; k < wanted.size(); ++k) parser.DefineVar(wanted[k], &row[k]);
    for (std::size_t i = 0; i < places.size(); ++i) {
      for (std::size_t k = 0; k < wanted.size(); ++k) row[k] = columns[k][i];
      out[i] = parser.Eval();
    }
    return out;
  } catch (const mu::Parser::exception_type& e) {
    throw InputError("'" + formula + "' is no formula: " + e.GetMsg(), r.run.variant,
                     "write one like \"= 1 - total_Cp\"");
  }
}

std::vector<std::string> names_of(const Record& r, Maker<double> Entry::*scalar,
                                  Maker<Vec3> Entry::*vector) {
  std::vector<std::string> names;
  for (const Entry& e : entries(r))
    if (e.*scalar || e.*vector) names.push_back(e.quantity.name);
  return names;
}

}  // namespace

std::vector<Quantity> quantities(const Record& record) {
  std::vector<Quantity> list;
  for (const Entry& e : entries(record)) list.push_back(e.quantity);
  return list;
}

Quantity quantity_named(const Record& r, const std::string& name) {
  if (is_formula(name)) {
    const Formula formula = formula_in(name);
    Quantity q{formula.expression, formula.unit};
    q.in_air = q.on_wall = true;
    return q;
  }
  std::string known;
  for (const Quantity& q : quantities(r)) {
    if (q.name == name) return q;
    known += (known.empty() ? "" : ", ") + q.name;
  }
  throw InputError("the record has no '" + name + "'", r.run.variant, "it has " + known);
}

std::vector<double> scalar_in_air(const Record& r, const std::string& name, Side side) {
  const auto plain = [&](const std::string& n) {
    return number(r, n, "as a number in the air", &Entry::scalar_in_air, &Entry::vector_in_air,
                  side);
  };
  if (!is_formula(name)) return plain(name);
  return evaluated(r, name, r.mesh->cell_centre, side,
                   names_of(r, &Entry::scalar_in_air, &Entry::vector_in_air), plain);
}
std::vector<double> scalar_on_wall(const Record& r, const std::string& name, Side side) {
  const auto plain = [&](const std::string& n) {
    return number(r, n, "as a number on the wall", &Entry::scalar_on_wall, &Entry::vector_on_wall,
                  side);
  };
  if (!is_formula(name)) return plain(name);
  const auto first = r.mesh->face_centre.begin() + r.mesh->interior_faces();
  return evaluated(r, name, {first, r.mesh->face_centre.end()}, side,
                   names_of(r, &Entry::scalar_on_wall, &Entry::vector_on_wall), plain);
}
std::vector<Vec3> vector_in_air(const Record& r, const std::string& name) {
  return made(r, name, "as a vector in the air", &Entry::vector_in_air);
}
std::vector<Vec3> vector_on_wall(const Record& r, const std::string& name) {
  return made(r, name, "as a vector on the wall", &Entry::vector_on_wall);
}

}  // namespace dunefield

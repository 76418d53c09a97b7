// A record as a folder: numbers as JSON, the history as CSV, mesh and fields as arrays of full
// precision.
#include <algorithm>
#include <cmath>
#include <string_view>

#include <fmt/format.h>

#include <dunefield/base/array_file.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/mesh/sound_mesh.hpp>
#include <dunefield/record/record_numbers.hpp>
#include <dunefield/record/shared_mesh.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

/// Names may be any bytes, so that they go with the arrays.
struct BoundaryArrays {
  std::vector<char> names;
  std::vector<std::int32_t> kinds, counts;
};

void write_arrays(const fs::path& file, const Record& r) {
  ArrayFileWriter out(file);
  const VolumeMesh& m = *r.mesh;
  BoundaryArrays b;
  for (const Boundary& boundary : m.boundaries) {
    b.names.insert(b.names.end(), boundary.name.begin(), boundary.name.end());
    b.names.push_back('\0');
    b.kinds.push_back(static_cast<std::int32_t>(boundary.kind));
    b.counts.push_back(boundary.count);
  }
  out.put("cells", std::vector<std::int32_t>{m.cells});
  out.put("points", m.points), out.put("face start", m.face_start);
  out.put("face points", m.face_points);
  out.put("cell below", m.cell_below), out.put("cell above", m.cell_above);
  out.put("boundary names", b.names), out.put("boundary kinds", b.kinds);
  out.put("boundary counts", b.counts);
  for_each_field([&](const auto& field) {
    if (!(r.fields.*field.values).empty()) out.put(field.name, r.fields.*field.values);
  });
  out.put("wall loads", r.loads);
  put_probes(out, r.probes);
  out.finish();
}

[[noreturn]] void refuse(const std::string& what, const fs::path& file) {
  throw InputError(what, file.string(), "run that case again");
}

std::shared_ptr<const VolumeMesh> read_mesh(ArrayFileReader& in, const fs::path& file) {
  auto mesh = std::make_shared<VolumeMesh>();
  VolumeMesh& m = *mesh;
  const auto cells = in.take<std::int32_t>("cells");
  m.cells = cells.size() == 1 ? cells[0] : 0;
  m.points = in.take<Vec3>("points"), m.face_start = in.take<int>("face start");
  m.face_points = in.take<int>("face points");
  m.cell_below = in.take<int>("cell below"), m.cell_above = in.take<int>("cell above");
  const BoundaryArrays b{in.take<char>("boundary names"), in.take<std::int32_t>("boundary kinds"),
                         in.take<std::int32_t>("boundary counts")};
  if (b.kinds.size() != b.counts.size() ||
      at(static_cast<int>(std::count(b.names.begin(), b.names.end(), '\0'))) != b.kinds.size() ||
      (!b.names.empty() && b.names.back() != '\0'))
    refuse("the mesh is damaged: its boundaries are not whole", file);
  auto name = b.names.begin();
  std::int64_t first = m.interior_faces();
  for (std::size_t i = 0; i < b.kinds.size(); ++i) {
    const auto end = std::find(name, b.names.end(), '\0');
    const auto kind = static_cast<BoundaryKind>(std::clamp(b.kinds[i], 0, 255));
    m.boundaries.push_back({{name, end}, kind, static_cast<int>(first), b.counts[i]});
    name = end + 1, first += std::max(0, b.counts[i]);
    if (first > m.faces()) break;
  }
  if (const std::string fault = fault_of(m); !fault.empty())
    refuse("the mesh is damaged: " + fault, file);
  m.derive();
  return mesh;
}

bool is_finite(double v) { return std::isfinite(v); }
bool is_finite(const Vec3& v) { return std::isfinite(v.x + v.y + v.z); }

/// Every field has a value for each cell, each of them a number; loads and probes fit, too.
void check_fields(const Record& r, const fs::path& file) {
  const std::size_t cells = at(r.mesh->cells),
                    walls = at(r.mesh->faces() - r.mesh->interior_faces());
  for_each_field([&](const auto& field) {
    const auto& values = r.fields.*field.values;
    const bool needed = std::string_view(field.name) == "velocity" ||
                        std::string_view(field.name) == "pressure over density";
    if (values.size() != cells && (needed || !values.empty()))
      refuse("mesh and fields do not belong together", file);
    for (const auto& v : values)
      if (!is_finite(v)) refuse(fmt::format("a value of the {} is no number", field.name), file);
  });
  if (r.loads.size() != walls) refuse("mesh and fields do not belong together", file);
  for (const WallLoad& l : r.loads)
    if (!is_finite(l.pressure + l.friction) || !is_finite(l.pressure_at + l.y_plus))
      refuse("a load on a wall is no number", file);
}

/// @param other a record whose mesh may be the same; nullptr: none
void read_arrays(const fs::path& file, const Record* other, Record& r) {
  ArrayFileReader in(file);
  const bool same = other && other->mesh && other->run.hashes.mesh == r.run.hashes.mesh;
  r.mesh = same ? other->mesh : read_mesh(in, file);
  for_each_field([&]<class T>(const Field<T>& field) {
    if (in.has(field.name)) r.fields.*field.values = in.take<T>(field.name);
  });
  r.loads = in.take<WallLoad>("wall loads");
  r.probes = take_probes(in);
  check_fields(r, file);
}

/// Those of another flow, which was there before, are left aside.
void read_sensitivities(const fs::path& file, Record& r) {
  std::error_code none;
  if (!fs::exists(file, none)) return;
  ArrayFileReader in(file);
  const auto flow = in.take<char>("flow"), names = in.take<char>("names");
  if (std::string(flow.begin(), flow.end()) != r.run.hashes.flow) return;
  for (auto name = names.begin(); name != names.end();) {
    const auto end = std::find(name, names.end(), '\0');
    const std::string of(name, end);
    std::vector<double> values = in.take<double>("of " + of);
    if (values.size() != r.loads.size() ||
        !std::all_of(values.begin(), values.end(), [](double v) { return std::isfinite(v); }))
      throw InputError("does not fit the record", file.string(), "delete it, and ask for it again");
    r.sensitivities[of] = std::move(values);
    name = end == names.end() ? end : end + 1;
  }
}

Record opened(const fs::path& folder, const Record* other, const Progress& progress) {
  const Json j = numbers_of(folder);
  const fs::path numbers = folder / record_file::numbers;
  Record r;
  std::size_t iterations = 0;
  try {
    r = record_from(j, numbers.string());
    iterations = j.at("iterations").get<std::size_t>();
  } catch (const Json::exception& e) {
    throw InputError(fmt::format("is damaged ({})", e.what()), numbers.string(),
                     "run that case again");
  }
  const fs::path history = folder / record_file::history;
  r.history = history_from_csv(read_text(history), history.string());
  if (r.history.size() != iterations)
    throw InputError(
        fmt::format("has {} iterations where the record has {}", r.history.size(), iterations),
        history.string(), "run that case again");
  progress.check();
  read_arrays(folder / record_file::arrays, other, r);
  read_sensitivities(folder / record_file::sensitivities, r);
  return r;
}

}  // namespace

void Record::save(const fs::path& folder) const {
  check_writable(folder);
  write_text(folder / record_file::history, history_csv(history));
  write_arrays(folder / record_file::arrays, *this);
  write_text(folder / record_file::numbers, dumped(record_json(*this)) + "\n");
}

void save_sensitivity(const fs::path& folder, Record& r, const std::string& of,
                      std::vector<double> on_wall) {
  r.sensitivities[of] = std::move(on_wall);
  ArrayFileWriter out(folder / record_file::sensitivities);
  std::vector<char> names;
  for (const auto& [name, values] : r.sensitivities) {
    names.insert(names.end(), name.begin(), name.end());
    names.push_back('\0');
    out.put("of " + name, values);
  }
  out.put("flow", std::vector<char>(r.run.hashes.flow.begin(), r.run.hashes.flow.end()));
  out.put("names", names);
  out.finish();
}

Record Record::open(const fs::path& folder, const Progress& progress) {
  return opened(folder, nullptr, progress);
}

Record open_beside(const Record& other, const fs::path& folder, const Progress& progress) {
  return opened(folder, &other, progress);
}

}  // namespace dunefield

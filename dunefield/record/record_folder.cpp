// A record as a folder: numbers as JSON, the history as CSV, mesh and fields as arrays of full
// precision.
#include <fmt/format.h>

#include <dunefield/base/array_file.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/text_file.hpp>
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

std::shared_ptr<const VolumeMesh> read_mesh(ArrayFileReader& in) {
  auto mesh = std::make_shared<VolumeMesh>();
  VolumeMesh& m = *mesh;
  m.cells = in.take<std::int32_t>("cells").at(0);
  m.points = in.take<Vec3>("points"), m.face_start = in.take<int>("face start");
  m.face_points = in.take<int>("face points");
  m.cell_below = in.take<int>("cell below"), m.cell_above = in.take<int>("cell above");
  const BoundaryArrays b{in.take<char>("boundary names"), in.take<std::int32_t>("boundary kinds"),
                         in.take<std::int32_t>("boundary counts")};
  const char* name = b.names.data();
  int first = m.interior_faces();
  for (std::size_t i = 0; i < b.kinds.size(); ++i) {
    m.boundaries.push_back({name, static_cast<BoundaryKind>(b.kinds[i]), first, b.counts.at(i)});
    name += m.boundaries.back().name.size() + 1, first += b.counts[i];
  }
  m.derive();
  return mesh;
}

/// @param other a record whose mesh may be the same; nullptr: none
void read_arrays(const fs::path& file, const Record* other, Record& r) {
  ArrayFileReader in(file);
  const bool same = other && other->mesh && other->run.hashes.mesh == r.run.hashes.mesh;
  r.mesh = same ? other->mesh : read_mesh(in);
  for_each_field([&]<class T>(const Field<T>& field) {
    if (in.has(field.name)) r.fields.*field.values = in.take<T>(field.name);
  });
  r.loads = in.take<WallLoad>("wall loads");
  r.probes = take_probes(in);
  const std::size_t faces = at(r.mesh->faces() - r.mesh->interior_faces());
  if (r.fields.u.size() != at(r.mesh->cells) || r.loads.size() != faces)
    throw InputError("mesh and fields do not belong together", file.string(),
                     "run that case again");
}

Record opened(const fs::path& folder, const Record* other, const Progress& progress) {
  const Json j = numbers_of(folder);
  const fs::path numbers = folder / record_file::numbers;
  Record r;
  try {
    r = record_from(j, numbers.string());
  } catch (const Json::exception& e) {
    throw InputError(fmt::format("is damaged ({})", e.what()), numbers.string(),
                     "run that case again");
  }
  const fs::path history = folder / record_file::history;
  r.history = history_from_csv(read_text(history), history.string());
  if (r.history.size() != j.at("iterations").get<std::size_t>())
    throw InputError(fmt::format("has {} iterations where the record has {}", r.history.size(),
                                 j.at("iterations").get<std::size_t>()),
                     history.string(), "run that case again");
  progress.check();
  read_arrays(folder / record_file::arrays, other, r);
  return r;
}

}  // namespace

void Record::save(const fs::path& folder) const {
  check_writable(folder);
  write_text(folder / record_file::history, history_csv(history));
  write_arrays(folder / record_file::arrays, *this);
  write_text(folder / record_file::numbers, dumped(record_json(*this)) + "\n");
}

Record Record::open(const fs::path& folder, const Progress& progress) {
  return opened(folder, nullptr, progress);
}

Record open_beside(const Record& other, const fs::path& folder, const Progress& progress) {
  return opened(folder, &other, progress);
}

}  // namespace dunefield

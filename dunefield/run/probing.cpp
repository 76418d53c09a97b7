#include <dunefield/run/probing.hpp>

#include <algorithm>

#include <fmt/format.h>

namespace dunefield {
namespace {

/// The root's numbers on every rank.
std::vector<int> shared(std::vector<int> numbers, Communicator& comm) {
  std::uint64_t count = numbers.size();
  comm.broadcast(std::span(&count, 1));
  numbers.resize(count);
  if (count > 0) comm.broadcast(std::span(numbers));
  return numbers;
}

template <class T>
std::vector<T> chosen(const std::vector<T>& values, const std::vector<int>& places) {
  std::vector<T> out;
  for (const int i : places) out.push_back(values[at(i)]);
  return out;
}

template <class T>
void put(const std::vector<T>& values, const std::vector<int>& places, std::vector<T>& all) {
  for (std::size_t i = 0; i < values.size(); ++i) all[at(places[i])] = values[i];
}

}  // namespace

std::string words_of(const Readings& readings) {
  std::string words;
  const auto add = [&](const std::string& name, const Vec3& x) {
    words += fmt::format("{} {} {} {}\n", name, x.x, x.y, x.z);
  };
  for (const Tap& t : readings.taps) add(t.name, t.place);
  for (const Rake& r : readings.rakes)
    for (const Vec3& x : r.points) add(r.name, x);
  return words;
}

Probing::Root::Root(const RunSetup& setup, const VolumeMesh& mesh)
    : probes(mesh, setup.readings.taps, setup.readings.rakes, setup.tunnel.half),
      reference(setup.reference()),
      loads(at(mesh.faces() - mesh.interior_faces())),
      velocity(at(mesh.cells)),
      pressure(at(mesh.cells)),
      field{mesh, loads, velocity, pressure, 0, setup.tunnel.half} {}

Probing::Probing(const RunSetup& setup, const VolumeMesh* mesh, const FlowMesh& share,
                 Communicator& comm)
    : comm_(comm) {
  if (setup.readings.taps.empty() && setup.readings.rakes.empty()) return;
  if (mesh) root_ = std::make_unique<Root>(setup, *mesh);
  std::vector<int> cells, faces;
  for (const int c : shared(root_ ? root_->probes.cells() : cells, comm))
    if (c >= share.first_global && c < share.first_global + share.own)
      cells.push_back(c), cells_.push_back(c - share.first_global);
  const std::vector<int> loads = shared(root_ ? root_->probes.loads() : faces, comm);
  int first = 0;  // boundary face of the whole mesh
  if (mesh) first = mesh->interior_faces();
  comm.broadcast(std::span(&first, 1));
  for (std::size_t i = 0; i < share.boundary_faces.size(); ++i) {
    const int load = share.boundary_faces[i].global - first;
    if (!std::binary_search(loads.begin(), loads.end(), load)) continue;
    faces.push_back(load), faces_.push_back(static_cast<int>(i));
  }
  cells = comm.gather(std::move(cells)), faces = comm.gather(std::move(faces));
  if (root_) root_->cells = cells, root_->faces = faces;
}

void Probing::read(const FlowState& state, double undisturbed, std::vector<float>& rows) {
  const auto loads = comm_.gather(chosen(state.loads, faces_));
  const auto velocity = comm_.gather(chosen(state.u, cells_));
  const auto pressure = comm_.gather(chosen(state.p, cells_));
  if (!root_) return;
  put(loads, root_->faces, root_->loads);
  put(velocity, root_->cells, root_->velocity);
  put(pressure, root_->cells, root_->pressure);
  root_->field.undisturbed = undisturbed;
  for (const TapReading& t : root_->probes.taps(root_->field, root_->reference))
    rows.push_back(static_cast<float>(t.pressure));
  for (const RakeReading& r : root_->probes.rakes(root_->field, root_->reference))
    for (const double v : {r.pressure, r.velocity.x, r.velocity.y, r.velocity.z})
      rows.push_back(static_cast<float>(v));
}

std::vector<Probe> Probing::probes() const {
  std::vector<Probe> all;
  if (!root_) return all;
  for (const TapReading& t : root_->probes.taps(root_->field, root_->reference))
    all.push_back({t.tap, 0, t.place});
  for (const RakeReading& r : root_->probes.rakes(root_->field, root_->reference)) {
    const bool next = !all.empty() && all.back().number > 0 && all.back().name == r.rake;
    all.push_back({r.rake, next ? all.back().number + 1 : 1, r.place});
  }
  return all;
}

}  // namespace dunefield

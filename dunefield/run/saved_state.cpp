#include <dunefield/run/saved_state.hpp>

#include <algorithm>
#include <array>
#include <deque>
#include <fstream>
#include <span>
#include <string_view>

#include <fmt/format.h>
#include <zlib.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char magic[] = "dunefield state 11\n";
constexpr std::string_view any_version = "dunefield state ";

std::uint32_t checksum(const void* data, std::size_t bytes, std::uint32_t start = 0) {
  std::uint32_t crc = start;
  const auto* p = static_cast<const unsigned char*>(data);
  for (; bytes > 0;) {
    const auto part = static_cast<unsigned>(std::min<std::size_t>(bytes, 1u << 30));
    crc = static_cast<std::uint32_t>(crc32(crc, p, part));
    p += part, bytes -= part;
  }
  return crc;
}

/// Arrays with their length before and their checksum behind, as pieces of bytes. The arrays stay
/// where they are and must outlive the writer.
class Writer {
 public:
  template <class T>
  void put(const T* data, std::size_t count) {
    const std::uint64_t& n = lengths_.emplace_back(count);
    const std::uint32_t& crc =
        checksums_.emplace_back(checksum(data, count * sizeof(T), checksum(&n, sizeof n)));
    add(&n, sizeof n), add(data, count * sizeof(T)), add(&crc, sizeof crc);
  }
  template <class Range>
  void put(const Range& v) {
    put(v.data(), v.size());
  }
  void add(const void* data, std::size_t size) {
    pieces_.emplace_back(static_cast<const std::byte*>(data), size);
  }
  const std::vector<std::span<const std::byte>>& pieces() const { return pieces_; }

 private:
  std::vector<std::span<const std::byte>> pieces_;
  std::deque<std::uint64_t> lengths_;  // places that stay
  std::deque<std::uint32_t> checksums_;
};

class Reader {
 public:
  explicit Reader(const fs::path& file) : file_(file), in_(file, std::ios::binary) {
    std::error_code status;
    left_ = static_cast<std::uint64_t>(fs::file_size(file, status));
    std::string head(sizeof magic - 1, ' ');
    take(head.data(), head.size());
    if (head == magic) return;
    fail(head.starts_with(any_version) ? "is of another version" : "is no saved state");
  }
  template <class Range>
  void get(Range& v) {
    std::uint64_t n = 0;
    take(&n, sizeof n);
    using T = typename Range::value_type;
    if (n > left_ / sizeof(T)) fail("is cut short");
    v.resize(n);
    take(v.data(), n * sizeof(T));
    std::uint32_t crc = 0;
    take(&crc, sizeof crc);
    if (crc != checksum(v.data(), n * sizeof(T), checksum(&n, sizeof n))) fail("was altered");
  }
  int get_number() {
    std::vector<int> one;
    get(one);
    if (one.size() != 1) fail("was altered");
    return one[0];
  }
  /// Past an array of the type of `v`.
  template <class Range>
  void skip(const Range&) {
    std::uint64_t n = 0;
    take(&n, sizeof n);
    const std::uint64_t bytes = n * sizeof(typename Range::value_type) + sizeof(std::uint32_t);
    if (n > left_ || bytes > left_) fail("is cut short");
    in_.seekg(static_cast<std::streamoff>(bytes), std::ios::cur);
    left_ -= bytes;
  }

 private:
  void take(void* data, std::size_t bytes) {
    if (bytes > left_ || !in_.read(static_cast<char*>(data), static_cast<std::streamsize>(bytes)))
      fail("is cut short");
    left_ -= bytes;
  }
  [[noreturn]] void fail(const char* how) const {
    throw InputError(std::string("the saved state ") + how, file_.string(),
                     "delete it; the run then starts anew");
  }

  fs::path file_;
  std::ifstream in_;
  std::uint64_t left_ = 0;
};

SavedState read_head(Reader& in) {
  SavedState c;
  in.get(c.key.flow), in.get(c.key.mesh);
  std::vector<double> numbers;
  in.get(numbers);
  if (numbers.size() == 2) c.courant = numbers[0], c.warm = numbers[1] > 0;
  in.get(c.history), in.get(c.part_history), in.get(c.probe_history), in.get(c.probes),
      in.get(c.own);
  return c;
}

/// The next rank's part.
SolverState read_part(Reader& in) {
  SolverState s;
  s.iteration = in.get_number();
  std::vector<double> growth;
  in.get(growth);
  if (growth.size() == 4) s.growth = StepGrowth::of({growth[0], growth[1], growth[2], growth[3]});
  SolverState::visit_values(s, [&](auto& v) { in.get(v); });
  in.get(s.step_rate);
  in.get(s.limited), in.get(s.limited_share);
  std::vector<double> step;
  in.get(step);
  if (step.size() == 2) s.time.step = step[0], s.time.moments = step[1];
  TimeLevels::visit_values(s.time, [&](auto& v) { in.get(v); });
  RecombinationState::visit_values(s.recombination, [&](auto& v) { in.get(v); });
  return s;
}

template <class T>
void append_own(std::vector<T>& all, const std::vector<T>& of_rank, int own) {
  all.insert(all.end(), of_rank.begin(), of_rank.begin() + own);
}

}  // namespace

fs::path state_before(const fs::path& file) { return file.string() + ".before"; }

void save_state(const fs::path& file, const SavedState& c, const FlowSolver& solver,
                Communicator& comm) {
  const fs::path fresh = file.string() + being_written;
  const auto own = comm.all_gather(std::vector<int>{solver.state().mesh.own});
  std::vector<int> of_ranks;
  for (const auto& n : own) of_ranks.push_back(n.at(0));
  const double numbers[2] = {c.courant, c.warm ? 1.0 : 0.0};
  Writer out;
  if (comm.rank() == 0) {
    out.add(magic, sizeof magic - 1);
    out.put(c.key.flow), out.put(c.key.mesh);
    out.put(numbers, 2);
    out.put(c.history), out.put(c.part_history), out.put(c.probe_history), out.put(c.probes);
    out.put(of_ranks);
  }
  const int iteration = solver.iteration();
  const FlowState& state = solver.state();
  out.put(&iteration, 1);
  const std::array<double, 4> growth = solver.growth().numbers();
  out.put(growth.data(), growth.size());
  SolverState::visit_values(state, [&](const auto& v) { out.put(v); });
  out.put(state.step_rate);
  std::vector<int> limited;
  std::vector<double> shares;
  for (const auto& [cell, share] : state.gradients.limited_cells())
    limited.push_back(cell), shares.push_back(share);
  out.put(limited), out.put(shares);
  const double time[2] = {state.time.step, state.time.moments};
  out.put(time, 2);
  TimeLevels::visit_values(state.time, [&](const auto& v) { out.put(v); });
  RecombinationState::visit_values(solver.recombination().gathered(),
                                   [&](const auto& v) { out.put(v); });
  if (!comm.write_together(fresh, out.pieces()))
    throw OutputError("the state of the run cannot be saved", fresh.string(),
                      "check the folder and the free space");
  std::error_code status;
  if (comm.rank() == 0) {
    fs::rename(file, state_before(file), status);  // fails where there is none yet
    status = put_in_place(fresh, file);
  }
  if (comm.any(static_cast<bool>(status)))
    throw OutputError("the state of the run cannot be put in place", file.string(),
                      "check the folder");
}

std::optional<SavedState> read_saved_state(const fs::path& file) {
  std::error_code status;
  if (!fs::is_regular_file(file, status)) return std::nullopt;
  Reader in(file);
  SavedState c = read_head(in);
  for (std::size_t r = 0; r < c.own.size(); ++r) c.iteration = read_part(in).iteration;
  return c;
}

SolverState read_state(const fs::path& file, int rank) {
  Reader in(file);
  read_head(in);
  const SolverState types;
  for (int r = 0; r < rank; ++r) {
    in.get_number();
    in.skip(std::vector<double>());
    SolverState::visit_values(types, [&](const auto& v) { in.skip(v); });
    in.skip(types.step_rate);
    in.skip(types.limited), in.skip(types.limited_share);
    in.skip(std::vector<double>());
    TimeLevels::visit_values(types.time, [&](const auto& v) { in.skip(v); });
    RecombinationState::visit_values(types.recombination, [&](const auto& v) { in.skip(v); });
  }
  return read_part(in);
}

Fields read_fields(const fs::path& file) {
  Reader in(file);
  const SavedState c = read_head(in);
  Fields all;
  for (const int own : c.own) {
    const SolverState part = read_part(in);
    for_each_field([&](const auto& field) {
      const auto& values = part.*field.values;
      if (!values.empty()) append_own(all.*field.values, values, own);
    });
  }
  return all;
}

}  // namespace dunefield

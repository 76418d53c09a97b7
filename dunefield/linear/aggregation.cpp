#include <dunefield/linear/aggregation.hpp>

#include <algorithm>
#include <numeric>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr float strength_threshold = 0.25f;  // of a row's largest entry, for a pair to be formed

/// Pairs each row with its strongest free neighbour; leftovers join a strong neighbour's pair
/// (three at most).
std::vector<int> match_pairs(const Graph& g, const std::vector<float>& entry, int& count) {
  std::vector<int> aggregate(at(g.rows), -1), members;
  count = 0;
  std::vector<int> alone;
  for (int i = 0; i < g.rows; ++i) {
    if (aggregate[at(i)] >= 0) continue;
    float strongest = 0, best = 0;
    int partner = -1;
    for (int k = g.start[at(i)]; k < g.start[at(i) + 1]; ++k) {
      const float s = -entry[at(k)];
      strongest = std::max(strongest, s);
      const int j = g.column[at(k)];
      if (j < g.rows && aggregate[at(j)] < 0 && s > best) best = s, partner = j;
    }
    if (partner >= 0 && best >= strength_threshold * strongest) {
      aggregate[at(i)] = aggregate[at(partner)] = count++;
      members.push_back(2);
    } else {
      alone.push_back(i);
    }
  }
  for (const int i : alone) {
    float best = 0;
    int target = -1;
    for (int k = g.start[at(i)]; k < g.start[at(i) + 1]; ++k) {
      const int j = g.column[at(k)];
      if (j < g.rows && aggregate[at(j)] >= 0 && members[at(aggregate[at(j)])] < 3 &&
          -entry[at(k)] > best)
        best = -entry[at(k)], target = aggregate[at(j)];
    }
    if (target < 0) target = count++, members.push_back(0);
    aggregate[at(i)] = target;
    ++members[at(target)];
  }
  return aggregate;
}

/// Numbers aggregates in the order of their first row, so that the space-filling order survives.
void renumber(std::vector<int>& aggregate, int count) {
  std::vector<int> fresh(at(count), -1);
  int next = 0;
  for (int& a : aggregate) {
    if (fresh[at(a)] < 0) fresh[at(a)] = next++;
    a = fresh[at(a)];
  }
}

}  // namespace

Graph coarsen(const Graph& g, const std::vector<int>& aggregate, int rows, int columns,
              std::vector<int>& slot) {
  std::vector<int> first(at(rows) + 1, 0), member(at(g.rows));
  for (int i = 0; i < g.rows; ++i) ++first[at(aggregate[at(i)]) + 1];
  std::partial_sum(first.begin(), first.end(), first.begin());
  std::vector<int> next(first.begin(), first.end() - 1);
  for (int i = 0; i < g.rows; ++i) member[at(next[at(aggregate[at(i)])]++)] = i;
  Graph coarse;
  coarse.rows = rows, coarse.columns = columns;
  coarse.start = {0};
  slot.assign(at(g.entries()), -1);
  std::vector<int> row;
  for (int a = 0; a < rows; ++a) {
    const auto for_entries = [&](const auto& visit) {
      for (int m = first[at(a)]; m < first[at(a) + 1]; ++m)
        for (int i = member[at(m)], k = g.start[at(i)]; k < g.start[at(i) + 1]; ++k)
          if (const int b = aggregate[at(g.column[at(k)])]; b != a) visit(k, b);
    };
    row.clear();
    for_entries([&](int, int b) { row.push_back(b); });
    std::sort(row.begin(), row.end());
    row.erase(std::unique(row.begin(), row.end()), row.end());
    for_entries([&](int k, int b) {
      slot[at(k)] = coarse.start.back() +
                    static_cast<int>(std::lower_bound(row.begin(), row.end(), b) - row.begin());
    });
    coarse.column.insert(coarse.column.end(), row.begin(), row.end());
    coarse.start.push_back(coarse.entries());
  }
  return coarse;
}

void add_entries(const std::vector<float>& fine, const std::vector<int>& slot,
                 std::vector<float>& coarse) {
  std::fill(coarse.begin(), coarse.end(), 0.f);
  for (std::size_t k = 0; k < slot.size(); ++k)
    if (slot[k] >= 0) coarse[at(slot[k])] += fine[k];
}

HaloPlan coarsen_halo(const Halo& fine, std::vector<int>& aggregate, int own_coarse) {
  Communicator& comm = fine.comm();
  for (const auto& n : fine.plan().neighbours) {
    std::vector<int> ids;
    for (const int c : n.send) ids.push_back(aggregate[at(c)]);
    comm.send_vector(n.rank, ids);
  }
  HaloPlan plan;
  int next = own_coarse;
  for (const auto& n : fine.plan().neighbours) {
    const std::vector<int> ids = comm.receive_vector<int>(n.rank);
    std::vector<int> wanted = ids;
    std::sort(wanted.begin(), wanted.end());
    wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
    for (const int id : ids)
      aggregate.push_back(
          next +
          static_cast<int>(std::lower_bound(wanted.begin(), wanted.end(), id) - wanted.begin()));
    plan.neighbours.push_back({n.rank, {}, next, static_cast<int>(wanted.size())});
    next += static_cast<int>(wanted.size());
    comm.send_vector(n.rank, wanted);
  }
  for (auto& n : plan.neighbours) n.send = comm.receive_vector<int>(n.rank);
  return plan;
}

std::vector<int> aggregate_rows(const Graph& g, const std::vector<float>& entry, int& count) {
  int pairs = 0;
  std::vector<int> aggregate = match_pairs(g, entry, pairs);
  renumber(aggregate, pairs);
  std::vector<int> with_halo = aggregate;
  for (int c = g.rows; c < g.columns; ++c) with_halo.push_back(pairs + c - g.rows);
  std::vector<int> slot;
  const Graph middle = coarsen(g, with_halo, pairs, pairs + g.columns - g.rows, slot);
  std::vector<float> middle_entry(at(middle.entries()));
  add_entries(entry, slot, middle_entry);
  std::vector<int> second = match_pairs(middle, middle_entry, count);
  renumber(second, count);
  for (int& a : aggregate) a = second[at(a)];
  return aggregate;
}

}  // namespace dunefield

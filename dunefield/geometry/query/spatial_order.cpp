#include <dunefield/geometry/query/spatial_order.hpp>

#include <algorithm>
#include <thread>

#include <dunefield/parallel/thread_budget.hpp>

namespace dunefield {
namespace {

struct Item {
  Place place;
  std::int32_t number;
};

void order(Item* items, std::size_t n, int threads) {
  if (n <= 8) return;
  std::size_t group = 8;
  while (group * 8 < n) group *= 8;
  const std::size_t groups = (n + group - 1) / group,
                    middle = std::max<std::size_t>(1, groups / 2) * group;
  float lo[3] = {1e30f, 1e30f, 1e30f}, hi[3] = {-1e30f, -1e30f, -1e30f};
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t k = 0; k < 3; ++k)
      lo[k] = std::min(lo[k], items[i].place[k]), hi[k] = std::max(hi[k], items[i].place[k]);
  std::size_t axis = 0;
  for (std::size_t k = 1; k < 3; ++k)
    if (hi[k] - lo[k] > hi[axis] - lo[axis]) axis = k;
  std::nth_element(items, items + middle, items + n, [axis](const Item& a, const Item& b) {
    return a.place[axis] != b.place[axis] ? a.place[axis] < b.place[axis] : a.number < b.number;
  });
  if (threads > 1 && n > 10000) {
    std::jthread other([&] { order(items, middle, threads / 2); });
    order(items + middle, n - middle, threads - threads / 2);
  } else {
    order(items, middle, 1);
    order(items + middle, n - middle, 1);
  }
}

}  // namespace

std::vector<std::int32_t> spatial_order(const std::vector<Place>& places) {
  std::vector<Item> items(places.size());
  for (std::size_t i = 0; i < items.size(); ++i)
    items[i] = {places[i], static_cast<std::int32_t>(i)};
  order(items.data(), items.size(), threads_allowed());
  std::vector<std::int32_t> numbers(items.size());
  for (std::size_t i = 0; i < items.size(); ++i) numbers[i] = items[i].number;
  return numbers;
}

}  // namespace dunefield

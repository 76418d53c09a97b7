#include <dunefield/parallel/communicator.hpp>

namespace dunefield {

void Communicator::reduce(std::span<double> values, double (*combine)(double, double)) {
  if (size() == 1) return;
  if (rank() != 0) {
    send(0, std::span<const double>(values));
  } else {
    std::vector<double> other(values.size());
    for (int r = 1; r < size(); ++r) {
      receive(r, std::span(other));
      for (std::size_t i = 0; i < values.size(); ++i) values[i] = combine(values[i], other[i]);
    }
  }
  broadcast(values);
}

double Communicator::max(double value) {
  reduce(std::span(&value, 1), [](double a, double b) { return a > b ? a : b; });
  return value;
}

}  // namespace dunefield

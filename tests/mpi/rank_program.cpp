// Run by an MPI launcher: the checks of the communicator, then a small flow case, whose drag is
// printed to the last bit.
#include <cstdio>
#include <cstdlib>

#include <dunefield/parallel/mpi_communicator.hpp>
#include <tests/parallel/communicator_checks.hpp>
#include <tests/parallel/small_case.hpp>

int main(int argc, char** argv) {
  dunefield::MpiSession session(&argc, &argv);
  dunefield::Communicator& world = session.world();
  try {
    if (argc > 1 && world.size() != std::atoi(argv[1]))
      throw std::runtime_error("the launcher started another number of ranks");
    dunefield::test::check_communicator(world);
    const double drag = dunefield::test::small_case_drag(world);
    if (world.rank() == 0) std::printf("ranks %d drag %a\n", world.size(), drag);
  } catch (const std::exception& e) {
    std::fprintf(stderr, "rank %d: %s\n", world.rank(), e.what());
    session.abort(1);
  }
}

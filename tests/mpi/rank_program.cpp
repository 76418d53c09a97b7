// Run by an MPI launcher: the checks of the communicator, then a small flow case, whose drag is
// printed to the last bit. With a second word one rank fails: "throws", or "dies".
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <stdexcept>
#include <string>

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
    const std::string fault = argc > 2 ? argv[2] : "";
    if (fault == "throws" && world.rank() == 1) throw std::runtime_error("this rank alone fails");
    if (fault == "dies" && world.rank() == 1) std::raise(SIGKILL);
    const double drag = dunefield::test::small_case_drag(world);
    if (world.rank() == 0) std::printf("ranks %d drag %a\n", world.size(), drag);
  } catch (const std::exception& e) {
    std::fprintf(stderr, "rank %d: %s\n", world.rank(), e.what());
    session.abort(1);
  }
}

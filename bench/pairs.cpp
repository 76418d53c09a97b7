// How much a difference of two variants owes to where the cells happen to lie, beside how much a
// single result does: the demo vehicles and three changes of each, small, middling and large, on
// several positions of the octree. The table of docs/validation.md and the figures of
// campaign/paired_scatter.cpp come from it. What is done is not run again.
//   build/release/bin/pairs marram barchan seif rill --recipe scout --lattices 4 --into pairs
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <map>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <demo/garage.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/dunefield.hpp>

namespace {

using namespace dunefield;
namespace fs = std::filesystem;

/// Beside the variants of the demo's own campaign.
const std::map<std::string, std::string> more_variants = {{"marram", R"(
[[variant]]
name = "side skirts"
add = ["side-skirts.stl"]
[[variant]]
name = "wheel covers"
add = ["wheel-covers.obj"]
)"},
                                                          {"barchan", R"(
[[variant]]
name = "no rear wing"
remove = ["rear wing", "rear wing flap", "rear wing pylons"]
)"},
                                                          {"seif", R"(
[[variant]]
name = "lowered"
ride = { front = "-40 mm", rear = "-40 mm" }
[[variant]]
name = "nose up"
ride = { front = "60 mm", rear = "0 mm" }
)"},
                                                          {"rill", R"(
[[variant]]
name = "no helmet"
remove = ["helmet"]
)"},
                                                          {"nabkha", R"(
[[variant]]
name = "lowered"
ride = { front = "-15 mm", rear = "-15 mm" }
)"}};

struct Options {
  std::vector<std::string> vehicles = {"marram", "barchan", "seif", "rill", "nabkha"};
  std::string recipe = "scout", into = "pairs";
  int lattices = 4;
  Ranks ranks;
};

struct Quantity {
  const char* name;
  WindowMean Figures::*mean;
  bool share;  ///< told as a share of the baseline's
};
constexpr Quantity quantities[] = {{"CD", &Figures::cd, true},
                                   {"CL", &Figures::cl, false},
                                   {"CLF", &Figures::clf, false},
                                   {"CLR", &Figures::clr, false}};

/// Sums of squared deviations, and their degrees of freedom.
struct Spread {
  double squares = 0, freedom = 0, of_histories = 0;
  void add(const std::vector<double>& values, const std::vector<double>& half_intervals) {
    double mean = 0;
    for (const double v : values) mean += v / static_cast<double>(values.size());
    for (const double v : values) squares += (v - mean) * (v - mean);
    const double degrees = static_cast<double>(values.size()) - 1;
    for (const double h : half_intervals)
      of_histories += h * h / 4 * degrees / static_cast<double>(values.size());
    freedom += degrees;
  }
  double deviation() const { return std::sqrt(squares / std::max(1.0, freedom)); }
  /// Without what the histories give.
  double of_meshes() const {
    return std::sqrt(std::max(0.0, squares - of_histories) / std::max(1.0, freedom));
  }
};

class Watcher final : public CampaignWatcher {
 public:
  void begins(const Begin& b) override {
    if (!b.done) fmt::print("  {} on lattice {} ...\n", b.variant, b.lattice + 1);
    std::fflush(stdout);
  }
  void failed(const std::string& why) override { fmt::print("  failed: {}\n", why); }
};

std::vector<Figures> results(const std::string& vehicle, const Options& o) {
  const fs::path folder = fs::path(o.into) / (vehicle + "-" + o.recipe);
  const fs::path file = garage::write_demo(vehicle, folder);
  std::string text = read_text(file);
  if (const auto more = more_variants.find(vehicle); more != more_variants.end())
    text += more->second;
  write_text(file, text);
  Campaign campaign = read_campaign(file);
  campaign.recipe.name = o.recipe, campaign.lattices = o.lattices;
  campaign.speeds.resize(1);
  campaign.limits = {};  // the usual accuracy, whatever a demo asks for
  Watcher watcher;
  return run_campaign(prepare(campaign), folder / "runs", o.ranks, watcher).runs;
}

/// A vehicle's table, and its deviations.
void tell(const std::string& vehicle, const std::vector<Figures>& runs, Spread (&pairs)[4],
          Spread (&singles)[4]) {
  std::vector<std::string> variants;
  for (const Figures& f : runs)
    if (std::find(variants.begin(), variants.end(), f.run.variant) == variants.end())
      variants.push_back(f.run.variant);
  const auto of = [&](const std::string& variant) {
    std::map<int, const Figures*> by_lattice;
    for (const Figures& f : runs)
      if (f.run.variant == variant) by_lattice[f.run.lattice] = &f;
    return by_lattice;
  };
  const auto bases = of(variants.front());
  for (const std::string& variant : variants) {
    std::string line;
    for (std::size_t q = 0; q < std::size(quantities); ++q) {
      const Quantity& quantity = quantities[q];
      const auto own = of(variant);
      double mean = 0;  // a single result is told as a share of the mean over lattices
      for (const auto& [lattice, run] : own)
        mean += (run->*quantity.mean).mean / static_cast<double>(own.size());
      std::vector<double> single, pair, single_histories, pair_histories;
      for (const auto& [lattice, run] : own) {
        const auto base = bases.find(lattice);
        if (base == bases.end()) continue;
        const WindowMean &r = run->*quantity.mean, &b = base->second->*quantity.mean;
        const double unit = quantity.share ? b.mean : 1, own_unit = quantity.share ? mean : 1;
        single.push_back(r.mean / own_unit);
        single_histories.push_back(r.half_interval / own_unit);
        pair.push_back((r.mean - b.mean) / unit);
        pair_histories.push_back(std::hypot(r.half_interval, b.half_interval) / unit);
      }
      singles[q].add(single, single_histories);
      if (variant != variants.front()) pairs[q].add(pair, pair_histories);
      for (const double v : variant == variants.front() ? single : pair)
        line += quantity.share
                    ? fmt::format(" {:+.2f}%", 100 * (variant == variants.front() ? v - 1 : v))
                    : fmt::format(" {:+.3f}", v);
      line += q + 1 < std::size(quantities) ? std::string(";  ") + quantities[q + 1].name : "";
    }
    fmt::print("{:8} {:16} CD{}\n", vehicle, variant, line);
  }
  std::fflush(stdout);
}

void tell(const std::string& whose, const Spread (&pairs)[4], const Spread (&singles)[4]) {
  for (std::size_t q = 0; q < std::size(quantities); ++q) {
    const auto told = [&](double v) {
      return quantities[q].share ? fmt::format("{:.2f} %", 100 * v) : fmt::format("{:.4f}", v);
    };
    fmt::print(
        "{:8} {:3} standard deviation over lattices: of single results {} ({} without the "
        "histories' share), of pairs {} ({}), {:.0f} degrees of freedom\n",
        whose, quantities[q].name, told(singles[q].deviation()), told(singles[q].of_meshes()),
        told(pairs[q].deviation()), told(pairs[q].of_meshes()), pairs[q].freedom);
  }
}

void run(const Options& o) {
  for (const std::string& vehicle : o.vehicles) {
    Spread pairs[4], singles[4];
    tell(vehicle, results(vehicle, o), pairs, singles);
    tell(vehicle, pairs, singles);
  }
}

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  Options o;
  CLI::App app{"Scatter of differences over positions of the octree, beside that of results"};
  app.add_option("vehicles", o.vehicles, "which (default: all five)")
      ->check(CLI::IsMember(garage::demo_names()));
  app.add_option("--recipe", o.recipe, "of the meshes");
  app.add_option("--lattices", o.lattices, "positions of the octree")->check(CLI::Range(2, 32));
  app.add_option("--into", o.into, "folder for the runs");
  app.add_option("--ranks", o.ranks.threads, "0: one for each core")->check(CLI::NonNegativeNumber);
  CLI11_PARSE(app, count, words);
  try {
    run(o);
  } catch (const Error& e) {
    fmt::print(stderr, "{}\n", e.what());
    return 1;
  }
}

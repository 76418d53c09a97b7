// Whether what the judge says of means is true: histories of long runs (`[flow] until_settled =
// false`) are cut at many places, each piece is judged as a run that begins there, every ten
// iterations, until it is settled, and its means are held against those of the whole history.
//   build/release/bin/judging marram.runs/*/ [--accuracy 0.005]
#include <cmath>
#include <cstdio>
#include <filesystem>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <dunefield/base/text_file.hpp>
#include <dunefield/dunefield.hpp>

namespace {

using namespace dunefield;

struct Options {
  std::vector<std::string> folders;
  double accuracy = 0.005, lift_accuracy = 0.005;
  int step = 40, start_up = 150, rest = 500;
};

struct Tally {
  int judged = 0, never = 0;
  int held[3] = {0, 0, 0};  ///< intervals of CD, CLF, CLR that hold the mean of the whole history
  double iterations = 0, squares = 0;
};

/// The piece from `cut` on, as a run that goes on until it is settled; nothing if it never is.
std::optional<Convergence> judged(const std::vector<HistoryRow>& history, std::size_t cut,
                                  const ReferenceValues& reference, const Options& o, int& took) {
  std::vector<HistoryRow> piece;
  // Only what came from the stream has a residual that falls.
  const bool warm =
      cut > 0 || history.front().momentum_residual < 5 * history.back().momentum_residual;
  for (std::size_t i = cut; i < history.size(); ++i) {
    piece.push_back(history[i]);
    if (piece.size() % 10 != 0) continue;
    Convergence c = judge(piece, reference, {o.accuracy, o.lift_accuracy}, warm);
    if (!c.settled()) continue;
    took = static_cast<int>(piece.size());
    return c;
  }
  return std::nullopt;
}

void tell(const std::string& what, const Tally& t) {
  const double n = std::max(1, t.judged);
  fmt::print(
      "{:40} {:3} pieces settled after {:4.0f} iterations, {:2} never; intervals that hold: CD "
      "{:3.0f} %, CLF {:3.0f} %, CLR {:3.0f} %; deviation of CD {:.2f} %\n",
      what, t.judged, t.iterations / n, t.never, 100 * t.held[0] / n, 100 * t.held[1] / n,
      100 * t.held[2] / n, 100 * std::sqrt(t.squares / n));
}

void add(Tally& all, const Tally& one) {
  all.judged += one.judged, all.never += one.never;
  all.iterations += one.iterations, all.squares += one.squares;
  for (int i = 0; i < 3; ++i) all.held[i] += one.held[i];
}

Tally judge_cuts(const std::string& folder, const Options& o) {
  namespace fs = std::filesystem;
  const fs::path file = fs::path(folder) / record_file::history;
  const std::vector<HistoryRow> history = history_from_csv(read_text(file), file.string());
  const ReferenceValues reference = read_figures(folder).reference;
  double truth[3] = {0, 0, 0}, count = 0;
  for (const HistoryRow& row : history) {
    if (row.iteration <= o.start_up || row.recombined) continue;
    truth[0] += row.c.cd, truth[1] += row.c.clf(), truth[2] += row.c.clr();
    ++count;
  }
  for (double& mean : truth) mean /= std::max(1.0, count);
  Tally t;
  for (std::size_t cut = 0; cut + static_cast<std::size_t>(o.rest) <= history.size();
       cut += static_cast<std::size_t>(cut == 0 ? o.start_up : o.step)) {
    int took = 0;
    const auto c = judged(history, cut, reference, o, took);
    if (cut == 0 && c)
      fmt::print(
          "{:40} from its start: {} iterations, CD {:.4f} +- {:.4f}, in the long run {:.4f}\n",
          fs::path(folder).lexically_normal().parent_path().filename().string(), took, c->cd.mean,
          c->cd.half_interval, truth[0]);
    if (!c) {
      ++t.never;
      continue;
    }
    ++t.judged, t.iterations += took, t.squares += std::pow(c->cd.mean / truth[0] - 1, 2);
    t.held[0] += std::abs(c->cd.mean - truth[0]) <= c->cd.half_interval;
    t.held[1] += std::abs(c->clf.mean - truth[1]) <= c->clf.half_interval;
    t.held[2] += std::abs(c->clr.mean - truth[2]) <= c->clr.half_interval;
  }
  return t;
}

}  // namespace

int main(int count, char** words) {
  Options o;
  CLI::App app{"Whether the judge's intervals hold, from histories of long runs"};
  app.add_option("folders", o.folders, "records of long runs")
      ->required()
      ->check(CLI::ExistingDirectory);
  app.add_option("--accuracy", o.accuracy, "of CD")->check(CLI::PositiveNumber);
  app.add_option("--lift-accuracy", o.lift_accuracy, "of CLF and CLR")->check(CLI::PositiveNumber);
  app.add_option("--step", o.step, "iterations from cut to cut")->check(CLI::PositiveNumber);
  CLI11_PARSE(app, count, words);
  try {
    Tally all;
    for (const std::string& folder : o.folders) {
      const Tally t = judge_cuts(folder, o);
      tell(folder, t);
      add(all, t);
    }
    tell("all", all);
  } catch (const Error& e) {
    fmt::print(stderr, "{}\n", e.what());
    return 1;
  }
}

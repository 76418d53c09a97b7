#include <dunefield/report/report.hpp>

#include <algorithm>
#include <chrono>
#include <ctime>
#include <set>

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/result_tables.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/campaign/verdicts.hpp>
#include <dunefield/look/charts.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/record/shared_mesh.hpp>
#include <dunefield/report/first_screen.hpp>
#include <dunefield/report/page.hpp>
#include <dunefield/report/view_data.hpp>
#include <dunefield/report/why_charts.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

struct FinishedRun {
  MatrixRun which;
  fs::path folder;
  Figures figures;
};

/// What there is of a campaign.
struct Found {
  std::vector<FinishedRun> runs;
  std::vector<std::string> missing;
};

Found found_runs(const CampaignSetup& setup, const fs::path& folder) {
  Found found;
  for (const MatrixRun& which : setup.matrix()) {
    const fs::path run = folder / run_name(setup, which);
    const std::string name = fmt::format(
        "{} at {}", setup.variants[which.variant].vehicle.name,
        conditions_in_words(which.speed, setup.settings_of(which), setup.campaign.units));
    try {
      switch (standing_of(run, setup.run(which))) {
        case Standing::missing: found.missing.push_back(name + ": not run"); break;
        case Standing::out_of_date:
          found.missing.push_back(name + ": " + out_of_date_in_words);
          break;
        case Standing::current: found.runs.push_back({which, run, read_figures(run)});
      }
    } catch (const InputError& e) {
      found.missing.push_back(name + ": " + e.what());
    }
  }
  return found;
}

/// Writes the page part by part.
class Reporter {
 public:
  Reporter(const CampaignSetup& setup, const fs::path& runs, const ReportOptions& options,
           const Progress& progress)
      : setup_(setup),
        options_(options),
        progress_(progress),
        found_(found_runs(setup, runs)),
        page_(setup.campaign.name) {
    if (found_.runs.empty())
      throw InputError("no run of the campaign is finished as its file describes it", runs.string(),
                       "run it first: dunefield run " + setup.campaign.file.string());
    for (const FinishedRun& r : found_.runs) figures_.push_back(r.figures);
  }

  std::string write() {
    open_shown();
    verdict();
    if (shown_.size() > 1) why();
    numbers();
    charts();
    view();
    pictures();
    set_up();
    provenance();
    return page_.html();
  }

 private:
  const std::string& baseline() const { return setup_.campaign.baseline; }
  const DisplayUnits& units() const { return setup_.campaign.units; }

  void verdict() {
    page_.section("Verdict");
    const auto found = verdicts(figures_, baseline(), setup_.campaign.wants, units());
    std::vector<std::string> lines;
    for (const VariantVerdict& v : found) lines.push_back(v.sentence);
    page_.begin_column();
    if (lines.empty())
      page_.paragraph("The campaign has one variant: there is nothing to compare.");
    else
      page_.list(lines);
    std::vector<Figures> shown;
    for (const FinishedRun* r : records_of_shown_) shown.push_back(r->figures);
    add({"At " + condition_,
         key_numbers(shown, setup_.campaign.wants, units()),
         {(lines.empty() ? "" : fmt::format("Compared with '{}'. ", baseline())) +
          "Intervals hold with 95 % confidence: histories and cell placement."}});
    if (const std::string chart = difference_chart(found, units()); !chart.empty())
      page_.begin_column(), page_.drawing(chart);
    page_.end_columns();
    best_beside_baseline(found);
    if (figures_.front().run.half)
      page_.paragraph("Forces are those of the whole vehicle, mirrored from one half.");
    for (const std::string& m : found_.missing) page_.paragraph("Missing: " + m);
    for (const Finding& f : setup_.findings)
      if (f.level == Finding::Level::warning) page_.paragraph("Warning: " + f.text);
  }

  /// The variant that takes most drag off, of those that are shown; the baseline alone otherwise.
  void best_beside_baseline(const std::vector<VariantVerdict>& found) {
    Views both = {shown_.front()};
    std::string text = records_.front()->run.variant;
    double least = 0;
    for (std::size_t i = 1; i < shown_.size(); ++i)
      for (const VariantVerdict& v : found)
        if (v.variant == records_[i]->run.variant && !v.at.empty() && v.drag.value < least)
          least = v.drag.value, both = {shown_.front(), shown_[i]},
          text = records_.front()->run.variant + ", and beside it " + v.variant;
    PictureRequest r;
    r.surface = {"Cp"}, r.smoke = {"count = 40"};
    r.width = both.size() > 1 ? 640 : 1180, r.height = 330;
    page_.picture(look_at(both, r, progress_).image, "Pressure and smoke: " + text);
  }

  /// Records of all variants at one condition, the baseline first: the one that most variants have,
  /// in the middle of the speeds.
  void open_shown() {
    std::vector<std::vector<const FinishedRun*>> groups;
    for (const FinishedRun& r : found_.runs) {
      auto g = std::find_if(groups.begin(), groups.end(), [&](const auto& one) {
        return one[0]->which.speed == r.which.speed && one[0]->which.setting == r.which.setting &&
               one[0]->which.lattice == r.which.lattice;
      });
      if (g == groups.end()) g = groups.insert(g, std::vector<const FinishedRun*>());
      g->push_back(&r);
    }
    std::size_t most = 0;
    for (const auto& g : groups) most = std::max(most, g.size());
    std::erase_if(groups, [&](const auto& g) { return g.size() < most; });
    std::vector<const FinishedRun*> chosen = groups[groups.size() / 2];
    std::stable_sort(chosen.begin(), chosen.end(), [&](const auto* a, const auto* b) {
      return (a->figures.run.variant == baseline()) > (b->figures.run.variant == baseline());
    });
    constexpr std::size_t most_shown = 6;  // more are no picture any more
    if (chosen.size() > most_shown) {
      left_out_ = chosen.size() - most_shown;
      chosen.resize(most_shown);
    }
    for (const FinishedRun* r : chosen) {
      progress_("opening " + r->folder.filename().string(), 0);
      records_.push_back(std::make_unique<Record>(Record::open(r->folder, progress_)));
      shown_.push_back(std::make_shared<FlowView>(*records_.back()));
      records_of_shown_.push_back(r);
    }
    condition_ =
        conditions_in_words(records_.front()->run.speed, records_.front()->run.settings, units());
  }

  bool baseline_is_shown() const { return records_.front()->run.variant == baseline(); }

  void why() {
    if (!baseline_is_shown()) return;
    page_.section("Why");
    page_.paragraph("At " + condition_ + ".");
    for (std::size_t i = 1; i < records_.size(); ++i) {
      progress_("explaining " + records_[i]->run.variant, 0.2);
      page_.heading(records_[i]->run.variant);
      try {
        const Explanation e = explain(*records_[i], *records_.front());
        const Figures base = records_.front()->figures();
        page_.begin_column();
        page_.drawing(stretch_chart(e, *records_[i], *records_.front()));
        page_.begin_column();
        page_.drawing(part_chart(e, *records_.front()));
        page_.end_columns();
        for (const ResultTable& t :
             {by_part_table(records_[i]->figures(), base), by_stretch_table(e, base)})
          page_.folded_table(t.title, t.rows);
        const auto change = std::make_shared<FlowView>(*records_[i], records_.front().get());
        PictureRequest r;
        r.surface = {"Cp"}, r.view = "rear three-quarter", r.width = 640, r.height = 420;
        page_.begin_column();
        page_.picture(look_at({change}, r, progress_).image,
                      "Change of the pressure coefficient from '" + baseline() + "' to '" +
                          records_[i]->run.variant + "'");
        PictureRequest s;
        s.slice = {"total Cp"}, s.width = 640, s.height = 420;
        page_.begin_column();
        page_.picture(look_at({change}, s, progress_).image,
                      "Change of the total pressure on the centre plane");
        page_.end_columns();
      } catch (const InputError& e) {
        page_.paragraph(e.what());
      }
    }
  }

  void numbers() {
    page_.section("Numbers");
    for (const ResultTable& t :
         comparison_tables(figures_, baseline(), setup_.campaign.wants, units()))
      add(t);
    for (const ResultTable& t : derived_tables(figures_, setup_.campaign)) add(t);
    add(parts_of_shown());
    for (const auto& r : records_)
      if (ResultTable t = devices_table(r->balance.devices, units()); !t.rows.empty()) {
        t.title += ", " + r->run.variant;
        add(t);
      }
  }

  ResultTable parts_of_shown() const {
    ResultTable t{"CD and CL by part, means, at " + condition_, {{"part"}}, {}};
    std::vector<std::string> parts;
    for (const FinishedRun* r : records_of_shown_) {
      t.rows[0].push_back("CD " + r->figures.run.variant);
      t.rows[0].push_back("CL");
      for (const PartMean& p : r->figures.parts)
        if ((p.cd != 0 || p.cl != 0) &&
            std::find(parts.begin(), parts.end(), p.part) == parts.end())
          parts.push_back(p.part);
    }
    for (const std::string& part : parts) {
      t.rows.push_back({part});
      for (const FinishedRun* r : records_of_shown_) {
        const auto& all = r->figures.parts;
        const auto it =
            std::find_if(all.begin(), all.end(), [&](const PartMean& p) { return p.part == part; });
        t.rows.back().push_back(it == all.end() ? "" : fmt::format("{:.4f}", it->cd));
        t.rows.back().push_back(it == all.end() ? "" : fmt::format("{:+.4f}", it->cl));
      }
    }
    return t;
  }

  void charts() {
    page_.section("Charts");
    progress_("drawing charts", 0.4);
    if (found_.runs.size() > records_.size()) {
      try {
        chart(sweep_chart(figures_),
              "Coefficients over what the runs differ in, with their intervals");
      } catch (const InputError&) {  // they differ in nothing that is a number
      }
    }
    std::vector<const Record*> records;
    for (const auto& r : records_) records.push_back(r.get());
    chart(parts_chart(records), "CD and CL of each part, at " + condition_);
    chart(build_up_chart(records), "Build-up of drag and lift along the vehicle");
    try {
      chart(section_chart(shown_, {}), "Pressure along the centre line");
    } catch (const InputError&) {  // nothing of the vehicle lies there
    }
    chart(history_chart(records), "Histories");
  }

  /// The runs in the pictures with all there is, the others with their surfaces, as far as a file
  /// that is mailed may grow.
  void view() {
    page_.section("3-D view");
    constexpr std::size_t most_bytes = 40'000'000, most_more = 24;  // runs beside the shown ones
    std::vector<const FinishedRun*> all = records_of_shown_;
    for (const FinishedRun& r : found_.runs)
      if (std::find(records_of_shown_.begin(), records_of_shown_.end(), &r) ==
          records_of_shown_.end())
        all.push_back(&r);
    const std::size_t count = std::min(all.size(), shown_.size() + most_more);
    std::size_t left_out = all.size() - count;
    Progress quiet;  // reports come from this thread alone
    quiet.cancelled = progress_.cancelled;
    ScenePack pack;
    pack_side_by_side(
        count,
        [&](std::size_t i) {
          ScenePack one;
          if (i < shown_.size()) {
            const bool changed = i > 0 && baseline_is_shown();
            pack_run(one, shown_[i], changed ? records_.front().get() : nullptr, ViewDetail::all,
                     quiet);
            return one;
          }
          const Record record = opened_beside_shown(*all[i], quiet);
          pack_run(one, std::make_shared<FlowView>(record), nullptr, ViewDetail::surface, quiet);
          return one;
        },
        [&](std::size_t i, ScenePack one) {
          progress_(
              fmt::format("packing {}, {} of {}", all[i]->folder.filename().string(), i + 1, count),
              0.5);
          if (i < shown_.size() || pack.size() <= most_bytes)
            pack.append(std::move(one));
          else
            ++left_out;
        });
    if (left_out > 0)
      pack.note(fmt::format("{} more runs are left out of this view, so that the file stays small.",
                            left_out));
    page_.view(pack.json());
  }

  /// Most share their mesh with the shown run of their variant.
  Record opened_beside_shown(const FinishedRun& run, const Progress& progress) const {
    const auto like = std::find_if(records_.begin(), records_.end(), [&](const auto& r) {
      return r->run.hashes.mesh == run.figures.run.hashes.mesh;
    });
    return open_beside(like == records_.end() ? *records_.front() : **like, run.folder, progress);
  }

  void pictures() {
    page_.section("Pictures");
    page_.paragraph("At " + condition_ +
                    (left_out_ ? fmt::format("; {} more variants are left out.", left_out_) : "."));
    const auto add_picture = [&](PictureRequest r, const std::string& text) {
      progress_("drawing " + text, 0.7);
      if (shown_.size() > 1) r.width = 880, r.height = r.slice.empty() ? 560 : 330;
      page_.picture(look_at(shown_, r, progress_).image, text);
    };
    PictureRequest front, rear, centre, wake;
    add_picture(front, "Pressure on the surface, and smoke");
    rear.surface = {"oil flow"}, rear.view = "rear three-quarter";
    add_picture(rear, "Oil flow on the surface");
    centre.slice = {"texture"};
    add_picture(centre, "Speed over road speed on the centre plane");
    wake.slice = {
        fmt::format("x = {:.4g} m, total Cp",
                    records_.front()->vehicle.hi.x + 0.15 * records_.front()->vehicle.size().x)};
    add_picture(wake, "Total pressure in the wake, 15 % of the length behind");
    for (const FinishedRun* r : records_of_shown_)
      for (const WantedPicture& p : setup_.campaign.readings.pictures) {
        const fs::path file = r->folder / (p.name + ".png");
        if (fs::exists(file))
          page_.picture_file(read_text(file), "image/png", p.name + ", " + r->figures.run.variant);
      }
  }

  void set_up() {
    page_.section("Set-up");
    for (const std::string& l : describe(setup_)) page_.paragraph(l);
    ResultTable t{"Runs", {{"run", "cells", "iterations", "status", "why", "time s"}}, {}};
    for (const FinishedRun& r : found_.runs)
      t.rows.push_back(
          {fmt::format("{} at {}", r.figures.run.variant,
                       conditions_in_words(r.figures.run.speed, r.figures.run.settings, units())),
           std::to_string(r.figures.cells), std::to_string(r.figures.iterations),
           words(r.figures.status), r.figures.why, fmt::format("{:.0f}", r.figures.seconds)});
    add(t);
    for (const Finding& f : setup_.findings)  // warnings stand with the verdict
      if (f.level == Finding::Level::note) page_.paragraph("Note: " + f.text);
    std::set<std::string> of_meshes;  // most are alike between variants: told with the first
    for (const auto& r : records_) {
      for (const Finding& f : r->mesh_findings)
        if (f.level == Finding::Level::warning && of_meshes.insert(f.text).second)
          page_.paragraph("Warning, mesh of " + r->run.variant + ": " + f.text);
      for (const Finding& f : r->findings)
        if (f.level == Finding::Level::warning)
          page_.paragraph("Warning, " + r->run.variant + ": " + f.text);
    }
  }

  void provenance() {
    page_.section("Provenance");
    page_.paragraph(fmt::format("Made with Dunefield {} on {:%Y-%m-%d %H:%M} UTC.",
                                options_.version, fmt::gmtime(std::time(nullptr))));
    ResultTable t{"Hashes", {{"run", "mesh", "flow"}}, {}};
    for (const FinishedRun& r : found_.runs)
      t.rows.push_back(
          {r.folder.filename().string(), r.figures.run.hashes.mesh, r.figures.run.hashes.flow});
    add(t);
    std::error_code status;
    if (fs::is_regular_file(setup_.campaign.file, status))
      page_.folded("The campaign file, to run it again", read_text(setup_.campaign.file));
  }

  void add(const ResultTable& t) { page_.table(t.title, t.rows, t.notes); }
  void chart(const Chart& c, const std::string& text) {
    page_.picture_file(chart_svg(c), "image/svg+xml", text);
    page_.folded_table("Numbers of: " + text, chart_rows(c));
  }

  const CampaignSetup& setup_;
  const ReportOptions& options_;
  const Progress& progress_;
  Found found_;
  std::vector<Figures> figures_;
  std::vector<std::unique_ptr<Record>> records_;  ///< of the shown ones, the baseline first
  std::vector<const FinishedRun*> records_of_shown_;
  Views shown_;
  std::size_t left_out_ = 0;
  std::string condition_;
  Page page_;
};

}  // namespace

std::string report_page(const CampaignSetup& setup, const fs::path& runs,
                        const ReportOptions& options, const Progress& progress) {
  return Reporter(setup, runs, options, progress).write();
}

fs::path default_report(const fs::path& runs) { return runs / "report.html"; }

}  // namespace dunefield

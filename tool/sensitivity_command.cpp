// Where a change of shape would pay: the map on the surface, the most rewarding regions, and what
// the campaign's own changes of shape are predicted to do.
#include <algorithm>

#include <fmt/format.h>

#include "campaign_console.hpp"
#include "commands.hpp"
#include "tables.hpp"

#include <dunefield/base/index.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/dunefield.hpp>
#include <dunefield/mesh/morph/morph.hpp>
#include <dunefield/run/hashes.hpp>

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

constexpr double shown_mm = 5;  // by which regions are said to move

struct Wanted {
  MatrixRun which;
  RunSetup setup;
  fs::path folder;
};

/// The one run that is meant: of the baseline and at the middle speed, unless told otherwise.
Wanted wanted_run(const CampaignSetup& campaign, const SensitivityArguments& a) {
  const std::vector<double>& speeds = campaign.campaign.speeds;
  WantedRuns names;
  names.variants = {a.variant.empty() ? campaign.campaign.baseline : a.variant};
  if (!a.speed.empty()) names.speeds = {a.speed};
  for (const MatrixRun& which : matrix_with(names, campaign)) {
    if (!which.wanted || which.lattice > 0 || which.setting > 0) continue;
    if (a.speed.empty() && which.speed != speeds[speeds.size() / 2]) continue;
    Wanted w{which, campaign.run(which),
             default_folder(campaign.campaign) / run_name(campaign, which)};
    if (standing_of(w.folder, w.setup) != Standing::current)
      throw InputError("the run is not finished as the file describes it", w.folder.string(),
                       "run it first: dunefield run " + a.campaign);
    return w;
  }
  throw InputError("the campaign has no such run", a.campaign, "check variant and speed");
}

/// By how much a mesh's points move for another shape; none where it cannot follow.
std::vector<Vec3> way_to(const MeshResult& mesh, const RunSetup& other, const Progress& progress) {
  try {
    std::vector<Vec3> way =
        morphed(mesh, *other.morph_of, other.vehicle.surface, progress).mesh.points;
    for (std::size_t i = 0; i < way.size(); ++i) way[i] -= mesh.mesh.points[i];
    return way;
  } catch (const MeshError&) {
    return {};  // such a variant runs on a mesh of its own
  }
}

/// The campaign's variants whose mesh is this one's, moved.
std::vector<NamedDisplacement> displacements(const CampaignSetup& campaign, const Wanted& of,
                                             const Record& record, const Progress& progress) {
  std::vector<NamedDisplacement> all;
  MeshResult mesh;
  mesh.mesh = *record.mesh, mesh.quality = record.quality;
  for (std::size_t v = 0; v < campaign.variants.size(); ++v) {
    MatrixRun which = of.which;
    which.variant = v;
    const RunSetup other = campaign.run(which);
    if (!other.morph_of || hashes_of(followed_by(other)).mesh != record.run.hashes.mesh) continue;
    if (std::vector<Vec3> way = way_to(mesh, other, progress); !way.empty())
      all.push_back({other.vehicle.name, std::move(way)});
  }
  return all;
}

std::string with_doubt(double v, double doubt) {
  return doubt > 0 ? fmt::format("{:+.5f} ± {:.5f}", v, doubt) : fmt::format("{:+.5f}", v);
}

/// What is wanted of a coefficient: "less CD", "more CL" of "-CL".
std::string wish(const std::string& of) {
  return of.starts_with('-') ? "more " + of.substr(1) : "less " + of;
}

/// Where a surface looks: "front", "rear", "up", "down", "side".
const char* facing(const Vec3& normal) {
  const Vec3 size{std::abs(normal.x), std::abs(normal.y), std::abs(normal.z)};
  if (size.x >= std::max(size.y, size.z)) return normal.x < 0 ? "front" : "rear";
  if (size.z >= size.y) return normal.z > 0 ? "up" : "down";
  return "side";
}

ResultTable regions_table(const Sensitivity& s) {
  ResultTable t{
      fmt::format("Where moving the surface by {:.0f} mm gives {} most", shown_mm, wish(s.of)),
      {{"part", "at m", "facing", "move", "area m2", "change of " + s.of}},
      {}};
  for (const RewardingRegion& r : s.regions)
    t.rows.push_back({r.part,
                      fmt::format("({:.2f}, {:.2f}, {:.2f})", r.place.x, r.place.y, r.place.z),
                      facing(r.normal), r.change > 0 ? "in" : "out", fmt::format("{:.3f}", r.area),
                      with_doubt(-std::abs(r.change) * shown_mm, r.doubt * shown_mm)});
  t.notes.push_back("to first order, and with turbulence frozen: a direction, no verdict");
  return t;
}

ResultTable predicted_table(const Sensitivity& s) {
  ResultTable t{"What the campaign's own changes of shape would bring",
                {{"variant", "change of " + s.of}},
                {}};
  for (const PredictedChange& p : s.predicted)
    t.rows.push_back({p.name, with_doubt(p.change, p.doubt)});
  return t;
}

Json sensitivity_json(const Sensitivity& s) {
  Json regions = Json::array(), predicted = Json::array();
  for (const RewardingRegion& r : s.regions)
    regions.push_back({{"part", r.part},
                       {"place_m", vector_json(r.place)},
                       {"normal", vector_json(r.normal)},
                       {"area_m2", r.area},
                       {"change_per_mm_out", r.change},
                       {"doubt_per_mm", r.doubt}});
  for (const PredictedChange& p : s.predicted)
    predicted.push_back({{"variant", p.name}, {"change", p.change}, {"doubt", p.doubt}});
  return {{"of", s.of},
          {"radius_m", s.radius},
          {"damping_crossings", s.damping_courant},
          {"doubt_share", s.doubt},
          {"iterations", s.iterations},
          {"seconds", s.seconds},
          {"regions", regions},
          {"variants", predicted}};
}

std::string solution_in_words(const Sensitivity& s) {
  std::string words = fmt::format("{} iterations of the adjoint, bumps of {:.0f} mm, {:.0f} s",
                                  s.iterations, 1000 * s.radius, s.seconds);
  if (s.damping_courant > 0)
    words += fmt::format(
        "; damped over {:.3g} cell crossings, since the flow fluctuates (with twice the "
        "damping the map differs by {:.0f} %)",
        s.damping_courant, 100 * s.doubt);
  return words;
}

fs::path draw(const fs::path& folder, const Record& record, const std::string& of) {
  const std::string name = "sensitivity of " + of;
  std::vector<double> sizes;
  for (const double v : record.sensitivities.at(of))
    if (v != 0) sizes.push_back(std::abs(v));
  std::sort(sizes.begin(), sizes.end());
  constexpr double shown = 0.98;  // of the surface; a few peaks would leave the rest white
  const double most =
      sizes.empty() ? 1 : sizes[static_cast<std::size_t>(shown * double(sizes.size() - 1))];
  const fs::path file =
      folder / ("sensitivity-" + std::string(of.starts_with('-') ? "less" : "") + of + ".png");
  View view;
  // A section is drawn a metre deep, which its outline does not tell.
  if (record.vehicle.size().y == 0) view.zoom = 0.6;
  save_png(file,
           render(Picture(record)
                      .surface(name)
                      .range(name, -most, most)
                      .view(view)
                      .title(record.run.variant + ": red, push in; blue, pull out, for " + wish(of))
                      .size(1280, 800)));
  return file;
}

}  // namespace

int sensitivity(const SensitivityArguments& a, Console& console) {
  const Progress progress = console_progress(console, "solving");
  const CampaignSetup campaign = prepare(read_campaign(a.campaign));
  const Wanted wanted = wanted_run(campaign, a);
  const FileLock lock(beside(wanted.folder, ".lock"));
  refuse_unless_held(lock, wanted.folder);
  console.progress("opening the record");
  Record record = Record::open(wanted.folder, progress);
  const FlowCase flow = flow_case(wanted.setup, record.mesh->boundaries);
  const std::vector<NamedDisplacement> changes = displacements(campaign, wanted, record, progress);
  Json all = Json::array();
  for (const std::string& of : a.of) {
    SensitivityOptions options;
    options.of = of;
    if (!a.radius.empty()) options.radius = parse_quantity(a.radius, Dimension::length, "--radius");
    const Sensitivity s = dunefield::sensitivity(record, flow, changes, options, progress);
    save_sensitivity(wanted.folder, record, of, s.on_wall);
    console.line(fmt::format("sensitivity of {}: {} at {}; {}", of, record.run.variant,
                             console.units().speed_text(record.run.speed), solution_in_words(s)));
    show({regions_table(s)}, console);
    if (!s.predicted.empty()) show({predicted_table(s)}, console);
    const fs::path picture = draw(wanted.folder, record, of);
    console.line("picture    " + picture.string());
    all.push_back(sensitivity_json(s));
    all.back()["picture"] = picture.string();
  }
  console.json(dumped({{"run", wanted.folder.string()}, {"sensitivities", all}}));
  return exit_code::done;
}

}  // namespace dunefield::tool

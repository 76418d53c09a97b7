#include <dunefield/campaign/study.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/campaign/run_store.hpp>

namespace dunefield {
namespace {

constexpr char in_program[] = "study";  // what messages name instead of a file

Campaign campaign_of(const StudyOptions& o) {
  Campaign c;
  c.name = c.file = in_program;
  c.placing.unit = o.unit, c.placing.nose = o.nose, c.placing.up = o.up;
  c.placing.centred = o.half;
  c.tunnel.half = o.half;
  c.recipe = recipe(o.recipe);
  c.lattices = o.lattices;
  c.variants.emplace_back().name = Study::baseline;
  return c;
}

/// Keeps the reasons of runs that failed.
struct Failures : CampaignWatcher {
  void failed(const std::string& why) override { all += (all.empty() ? "" : "\n") + why; }
  std::string all;
};

}  // namespace

Study::Study(const Surface& vehicle, StudyOptions o)
    : campaign_(campaign_of(o)), folder_(std::move(o.folder)) {
  campaign_.surface = vehicle;
}

Study::Study(const std::filesystem::path& file, StudyOptions o)
    : campaign_(campaign_of(o)), folder_(std::move(o.folder)) {
  campaign_.surfaces = {file};
}

Campaign::Variant& Study::Variant::own() const { return study_.campaign_.variants[number_]; }

Study::Variant& Study::Variant::add(const std::filesystem::path& file) {
  own().add.push_back(file);
  return *this;
}

Study::Variant& Study::Variant::add(const Surface& surface) {
  append(own().surface, surface);
  return *this;
}

Study::Variant& Study::Variant::remove(const std::string& part) {
  own().remove.push_back(part);
  return *this;
}

Study::Variant& Study::Variant::change(Change change) {
  change.where = fmt::format("variant '{}'", own().name);
  own().changes.push_back(std::move(change));
  return *this;
}

Study::Variant& Study::Variant::move(const std::string& part, const Vec3& by) {
  Change c;
  c.kind = Change::Kind::move, c.part = part, c.vector = by;
  return change(std::move(c));
}

Study::Variant& Study::Variant::turn(const std::string& part, double angle, const Vec3& about,
                                     const Vec3& axis) {
  Change c;
  c.kind = Change::Kind::turn, c.part = part, c.vector = axis, c.amount = angle, c.about = about;
  return change(std::move(c));
}

Study::Variant& Study::Variant::reshape(const ShapeChange& shape, const std::string& part) {
  Change c;
  c.kind = Change::Kind::reshape, c.part = part, c.shape = shape;
  return change(std::move(c));
}

Study::Variant Study::variant(const std::string& name) {
  const bool taken = std::any_of(campaign_.variants.begin(), campaign_.variants.end(),
                                 [&](const Campaign::Variant& v) { return v.name == name; });
  if (taken || name.empty())
    throw InputError(
        name.empty() ? "a variant has no name" : "two variants are named '" + name + "'",
        in_program, "give each its own name");
  campaign_.variants.emplace_back().name = name;
  return {*this, campaign_.variants.size() - 1};
}

Study& Study::at(double speed) {
  if (!(speed > 0) || !std::isfinite(speed))
    throw InputError(fmt::format("a speed of {:g} m/s", speed), in_program, "give a positive one");
  if (std::find(campaign_.speeds.begin(), campaign_.speeds.end(), speed) == campaign_.speeds.end())
    campaign_.speeds.push_back(speed);
  return *this;
}

CampaignSetup Study::checked() const {
  if (campaign_.speeds.empty())
    throw InputError("no speed is given", in_program, "call at(kmh(90)) first");
  if (campaign_.surface.size() == 0 && campaign_.surfaces.empty())
    throw InputError("the vehicle has no facets", in_program, "give it a surface");
  return prepare(campaign_);
}

Study& Study::run(const Ranks& ranks, const Progress& progress) {
  Failures failures;
  runs_ = run_campaign(checked(), folder_, ranks, failures, progress).runs;
  if (!failures.all.empty()) throw FlowError(failures.all, "", "");
  return *this;
}

std::vector<VariantVerdict> Study::differences() const {
  return verdicts(runs_, baseline, campaign_.wants, campaign_.units);
}

Record Study::record(const std::string& variant, double speed) const {
  const CampaignSetup setup = checked();
  const double wanted = speed > 0 ? speed : campaign_.speeds.front();
  for (const MatrixRun& r : setup.matrix())
    if (setup.variants[r.variant].vehicle.name == variant && r.speed == wanted)
      return Record::open(folder_ / run_name(setup, r));
  throw InputError(fmt::format("there is no run of '{}' at {:g} m/s", variant, wanted), in_program,
                   "check the name and the speed");
}

}  // namespace dunefield

#include <dunefield/report/view_data.hpp>

#include <deque>
#include <future>
#include <map>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/comparison.hpp>
#include <dunefield/look/lightened_sheet.hpp>
#include <dunefield/look/picture.hpp>
#include <dunefield/parallel/thread_budget.hpp>

namespace dunefield {
namespace {

/// What a quantity is called where it stands beside others of the same name.
void rename(Scene& scene, const std::string& from, const std::string& to) {
  for (Sheet& s : scene.sheets)
    if (s.quantity == from) s.quantity = to;
  auto scale = scene.scales.extract(from);
  if (scale.empty()) return;
  scale.key() = to;
  scene.scales.insert(std::move(scale));
}

void pack_slice(ScenePack& pack, const std::shared_ptr<const FlowView>& view, const Plane& plane) {
  for (const char* quantity : {"speed ratio", "total Cp", "Cp"}) {
    SliceLook look;
    look.plane = plane, look.quantity = quantity;
    try {
      pack.add(Picture(view).slice(look).without_vehicle().scene(), "slice");
    } catch (const InputError&) {
      return;  // it lies outside a short tunnel
    }
  }
}

void pack_smoke(ScenePack& pack, const std::shared_ptr<const FlowView>& view) {
  const std::vector<std::pair<std::string, std::vector<Vec3>>> sets = {
      {"from ahead", nose_rake(view->record(), 90)},
      {"from where the flow comes to rest", seeds_at_stagnation(*view, 24)}};
  for (const auto& [name, seeds] : sets) {
    SmokeLook look;
    look.name = name, look.seeds = seeds, look.form = SmokeLook::Form::lines;
    try {
      pack.add(Picture(view).smoke(look).without_vehicle().scene(), "smoke");
    } catch (const InputError&) {  // none of them lies in the air
    }
  }
}

}  // namespace

void pack_run(ScenePack& pack, std::shared_ptr<const FlowView> view, const Record* baseline,
              ViewDetail detail, const Progress& progress) {
  const Record& r = view->record();
  const std::string condition = conditions_in_words(r.run.speed, r.run.settings);
  pack.begin({r.run.variant + " at " + condition, r.run.variant, condition, view->half()});
  progress("packing " + r.run.variant, 0);
  pack.add(Picture(view).surface("Cp").scene(), "vehicle");
  if (baseline) {
    const auto change = std::make_shared<FlowView>(r, baseline);
    Scene scene = Picture(change).surface("Cp").scene();
    rename(scene, "Cp", "change of Cp");
    pack.add(scene, "vehicle");
  }
  if (detail == ViewDetail::surface) return;
  const Plane middle{{}, {0, 1, 0}};
  for (const char* quantity : {"shear against the stream", "y+"})
    pack.add(Picture(view).surface(quantity).scene(), "vehicle");
  const Box& v = r.vehicle;
  pack_slice(pack, view, middle);
  progress.check();
  pack_slice(pack, view, {{v.hi.x + 0.15 * v.size().x, 0, 0}, {1, 0, 0}});
  progress.check();
  pack_slice(pack, view, {{0, 0, v.centre().z}, {0, 0, 1}});
  progress.check();
  pack_smoke(pack, view);
  progress.check();
  VolumeLook lost;
  try {
    Scene scene = Picture(view).volume(lost).without_vehicle().scene();
    for (Sheet& s : scene.sheets) s = lightened(s, 40'000);
    pack.add(scene, "volume");
  } catch (const InputError&) {  // nowhere is so much lost
  }
}

void pack_side_by_side(std::size_t count, const std::function<ScenePack(std::size_t)>& make,
                       const std::function<void(std::size_t, ScenePack)>& take) {
  // Each holds a record; much of a pack is made on one core alone.
  constexpr std::size_t most = 4;
  const std::size_t together = std::min(most, static_cast<std::size_t>(threads_allowed()));
  std::deque<std::future<ScenePack>> made;
  std::size_t next = 0;
  for (std::size_t i = 0; i < count; ++i) {
    for (; next < count && made.size() < together; ++next)
      made.push_back(std::async(std::launch::async, make, next));
    ScenePack one = made.front().get();
    made.pop_front();
    take(i, std::move(one));
  }
}

}  // namespace dunefield

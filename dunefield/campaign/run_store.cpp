#include <dunefield/campaign/run_store.hpp>

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/base/hash.hpp>
#include <dunefield/base/slug.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/look/standard_pictures.hpp>
#include <dunefield/run/hashes.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr double degrees = 57.29577951308232;

/// A number without a sign or a point that a file system might mind: 60, 22.5, m7.5.
std::string number(double v) {
  const std::string text = fmt::format("{:.10g}", v);
  return text[0] == '-' ? "m" + text.substr(1) : text;
}

/// Of a long key the last two words.
std::string short_key(const std::string& key) {
  const std::size_t last = key.rfind('.');
  const std::size_t before =
      last == std::string::npos || last == 0 ? std::string::npos : key.rfind('.', last - 1);
  return slug(before == std::string::npos ? key : key.substr(before + 1), "key");
}

/// Whether the campaign has another key that is short for the same.
bool is_ambiguous(const std::string& key, const Campaign& c) {
  for (const Settings& settings : c.settings)
    for (const Setting& other : settings)
      if (other.key != key && short_key(other.key) == short_key(key)) return true;
  return false;
}

/// @return what could not be drawn
std::vector<std::string> write_all(const fs::path& folder, const Record& record,
                                   const Readings& readings) {
  record.save(folder);
  std::vector<std::string> troubles;
  // Tables and pictures are made from the record at any time: they never cost it.
  try {
    write_readings(folder, record, readings);
    draw_standard_pictures(folder, record);
    troubles = draw_wanted(folder, record, readings.pictures);
  } catch (const OutputError& e) {
    troubles.emplace_back(e.what());
  }
  return troubles;
}

/// The first tap or rake that a flow in time was not read at; empty: none.
std::string without_series(const Record& record, const Readings& readings) {
  if (!(record.means_from_time() > 0)) return "";
  const auto read = [&](const std::string& name, bool tap) {
    return std::any_of(record.probes.probes.begin(), record.probes.probes.end(),
                       [&](const Probe& p) { return p.name == name && (p.number == 0) == tap; });
  };
  for (const Tap& t : readings.taps)
    if (!read(t.name, true)) return "tap '" + t.name + "'";
  for (const Rake& r : readings.rakes)
    if (!read(r.name, false)) return "rake '" + r.name + "'";
  return "";
}

fs::path fresh_beside(const fs::path& folder) {
  const fs::path fresh = beside(folder, being_written);
  std::error_code status;
  fs::remove_all(fresh, status);
  check_writable(fresh);
  return fresh;
}

fs::path superseded(const fs::path& folder) { return beside(folder, ".superseded"); }

/// An earlier result of the same flow is superseded, one of another is kept under a number.
fs::path place_for_earlier(const fs::path& folder, const Record& record) {
  try {
    if (read_figures(folder).run.hashes.flow == record.run.hashes.flow) {
      std::error_code ignored;
      fs::remove_all(superseded(folder), ignored);
      return superseded(folder);
    }
  } catch (const InputError&) {  // damaged: kept, too
  }
  int n = 1;
  while (fs::exists(folder.string() + fmt::format(".earlier-{}", n))) ++n;
  return folder.string() + fmt::format(".earlier-{}", n);
}

}  // namespace

fs::path beside(const fs::path& run_folder, const std::string& ending) {
  return run_folder.parent_path() / ("." + run_folder.filename().string() + ending);
}

void refuse_unless_held(const FileLock& lock, const fs::path& run_folder) {
  if (lock.held()) return;
  throw InputError(
      (lock.holder().empty() ? "another process" : lock.holder()) + " is computing this run",
      run_folder.string(), "wait until it has finished");
}

fs::path default_folder(const Campaign& c) {
  return c.file.parent_path() / (c.file.stem().string() + ".runs");
}

std::string setting_name(const Setting& s, const Campaign& c) {
  const std::string key = is_ambiguous(s.key, c)
                              ? slug(s.key, "key") + "-" + Hash().add(s.key).hex().substr(0, 6)
                              : short_key(s.key);
  std::string value = s.value;
  if (value.starts_with('-')) value[0] = 'm';
  // Digits after a point are told from others.
  std::replace(value.begin(), value.end(), '.', 'p');
  return key + "-" + slug(value, "value");
}

std::string run_name(const CampaignSetup& setup, const MatrixRun& run) {
  std::string name;
  std::set<std::string> taken;
  for (std::size_t v = 0; v <= run.variant; ++v) {
    const std::string stem = slug(setup.variants[v].vehicle.name, "variant");
    name = stem;
    for (int n = 2; !taken.insert(name).second; ++n) name = fmt::format("{}-{}", stem, n);
  }
  name += "_" + number(3.6 * run.speed) + "-kmh";
  double yaw = setup.campaign.conditions.yaw;
  std::string others;
  for (const Setting& s : setup.settings_of(run)) {
    if (s.key == yaw_key)
      yaw = parse_quantity(s.value, Dimension::angle, yaw_key);
    else
      others += "_" + setting_name(s, setup.campaign);
  }
  if (yaw != 0) name += "_yaw-" + number(degrees * yaw);
  name += others;
  if (run.lattice > 0) name += fmt::format("_lattice-{}", run.lattice + 1);
  return name;
}

Standing standing_of(const fs::path& folder, const RunSetup& setup) {
  std::error_code status;
  if (!fs::exists(folder / record_file::numbers, status)) return Standing::missing;
  return read_figures(folder).run.hashes.flow == hashes_of(setup).flow ? Standing::current
                                                                       : Standing::out_of_date;
}

std::vector<std::pair<std::string, Standing>> standings(const CampaignSetup& setup,
                                                        const fs::path& folder) {
  std::vector<std::pair<std::string, Standing>> all;
  for (const MatrixRun& which : setup.matrix()) {
    const std::string name = run_name(setup, which);
    try {
      all.emplace_back(name, standing_of(folder / name, setup.run(which)));
    } catch (const InputError&) {  // damaged
    }
  }
  return all;
}

ToDo left_to_do(const fs::path& folder, const RunSetup& setup) {
  std::error_code status;
  if (!fs::exists(folder / record_file::numbers, status)) return ToDo::all;
  try {
    const Figures there = read_figures(folder);
    const RunHashes wanted = hashes_of(setup);
    if (there.run.hashes.flow != wanted.flow) return ToDo::all;
    if (there.status == RunStatus::stopped || there.limits != limits_json(setup))
      return ToDo::limits;
    return there.run.hashes.readings == wanted.readings ? ToDo::nothing : ToDo::readings;
  } catch (const InputError&) {
    return ToDo::all;  // damaged, or of another version: it is kept aside and made again
  }
}

std::vector<std::string> store_run(const fs::path& folder, const Record& record,
                                   const Readings& readings) {
  const fs::path fresh = fresh_beside(folder);
  const std::vector<std::string> troubles = write_all(fresh, record, readings);
  write_open_data(fresh, record);
  const bool replaces = fs::exists(folder);
  const fs::path place = replaces ? place_for_earlier(folder, record) : folder;
  // In the earlier result's later place it waits for the exchange: no moment is without a result.
  std::error_code status = synced(fresh);
  if (!status) status = put_in_place(fresh, place);
  if (!status && replaces) status = exchanged(place, folder);
  if (status)
    throw OutputError(fmt::format("the result cannot be put in place ({})", status.message()),
                      folder.string(), "it is in " + (fs::exists(fresh) ? fresh : place).string());
  if (place == superseded(folder)) fs::remove_all(place, status);
  return troubles;
}

void store_look(const fs::path& folder, const Record& record, const Readings& readings) {
  const fs::path fresh = fresh_beside(folder);
  write_all(fresh, record, readings);
  std::error_code status;
  fs::remove_all(folder, status);
  if (put_in_place(fresh, folder))
    throw OutputError("the look at the run cannot be put in place", folder.string(),
                      "it is in " + fresh.string());
}

std::vector<std::string> store_readings(const fs::path& folder, const RunSetup& setup) {
  Record record = Record::open(folder);
  record.run.hashes.readings = hashes_of(setup).readings;
  record.setup = setup_json(setup), record.run.units = setup.readings.units;
  std::error_code ignored;
  for (const char* table : {"taps.csv", "rakes.csv", "planes.csv"})
    fs::remove(folder / table, ignored);
  write_readings(folder, record, setup.readings);
  draw_standard_pictures(folder, record);
  auto troubles = draw_wanted(folder, record, setup.readings.pictures);
  if (const std::string none = without_series(record, setup.readings); !none.empty())
    troubles.push_back("no series in time of " + none +
                       ": it was not there when the flow was run; remove the folder of the run to "
                       "have it run again");
  record.save(folder);
  return troubles;
}

}  // namespace dunefield

#include <dunefield/campaign/run_index.hpp>

#include <algorithm>
#include <memory>
#include <set>

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <sqlite3.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/campaign/run_matrix.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

// Another number when columns change: the index is then made anew.
constexpr int index_version = 2;

struct Column {
  const char* name;
  const char* type;
  std::string StoredRun::*text = nullptr;
  double StoredRun::*number = nullptr;
  int StoredRun::*count = nullptr;
};
constexpr Column text(const char* name, std::string StoredRun::*m) { return {name, "TEXT", m}; }
constexpr Column number(const char* name, double StoredRun::*m) {
  return {name, "REAL", nullptr, m};
}
constexpr Column count(const char* name, int StoredRun::*m) {
  return {name, "INTEGER", nullptr, nullptr, m};
}
const Column columns[] = {text("folder", &StoredRun::folder),
                          text("campaign", &StoredRun::campaign),
                          text("variant", &StoredRun::variant),
                          text("settings", &StoredRun::settings),
                          text("recipe", &StoredRun::recipe),
                          number("speed_m_s", &StoredRun::speed),
                          number("yaw_rad", &StoredRun::yaw),
                          count("half_model", &StoredRun::half),
                          count("layers", &StoredRun::layers),
                          count("lattice", &StoredRun::lattice),
                          text("status", &StoredRun::status),
                          count("iterations", &StoredRun::iterations),
                          count("cells", &StoredRun::cells),
                          number("CD", &StoredRun::cd),
                          number("CD_half_interval_95", &StoredRun::cd_half_interval),
                          number("CL", &StoredRun::cl),
                          number("CL_half_interval_95", &StoredRun::cl_half_interval),
                          number("CLF", &StoredRun::clf),
                          number("CLR", &StoredRun::clr),
                          number("CY", &StoredRun::cy),
                          number("CD_A_m2", &StoredRun::drag_area),
                          number("drag_N", &StoredRun::drag),
                          number("lift_N", &StoredRun::lift),
                          number("seconds", &StoredRun::seconds)};

/// A database; what fails in it is an error of ours.
class Database {
 public:
  explicit Database(const fs::path& file) {
    sqlite3* opened = nullptr;
    const int status = sqlite3_open(file.string().c_str(), &opened);
    db_.reset(opened);
    if (status != SQLITE_OK) fail(file);
    // The file may be anybody's: nothing that it holds is run, nothing outside of it is touched.
    sqlite3_db_config(opened, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    sqlite3_db_config(opened, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
    sqlite3_db_config(opened, SQLITE_DBCONFIG_ENABLE_TRIGGER, 0, nullptr);
    sqlite3_db_config(opened, SQLITE_DBCONFIG_ENABLE_VIEW, 0, nullptr);
    constexpr int patience = 10'000;  // ms, while another process writes
    sqlite3_busy_timeout(db_.get(), patience);
  }
  void run(const std::string& sql) const {
    if (sqlite3_exec(db_.get(), sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) fail(sql);
  }
  sqlite3* get() const { return db_.get(); }
  [[noreturn]] void fail(const fs::path& what) const {
    throw OutputError(std::string("the index of runs does not work: ") + sqlite3_errmsg(db_.get()),
                      what.string(), "delete index.sqlite; it is made again");
  }

 private:
  struct Close {
    void operator()(sqlite3* db) const { sqlite3_close(db); }
  };
  std::unique_ptr<sqlite3, Close> db_;
};

class Statement {
 public:
  Statement(const Database& db, const std::string& sql) : db_(db) {
    if (sqlite3_prepare_v2(db.get(), sql.c_str(), -1, &statement_, nullptr) != SQLITE_OK)
      db.fail(sql);
  }
  ~Statement() { sqlite3_finalize(statement_); }
  Statement(const Statement&) = delete;
  Statement& operator=(const Statement&) = delete;

  Statement& bind(const std::string& v) {
    sqlite3_bind_text(statement_, ++bound_, v.c_str(), -1, SQLITE_TRANSIENT);
    return *this;
  }
  Statement& bind(double v) { return sqlite3_bind_double(statement_, ++bound_, v), *this; }
  Statement& bind(std::int64_t v) { return sqlite3_bind_int64(statement_, ++bound_, v), *this; }
  /// True while there are rows.
  bool step() {
    const int status = sqlite3_step(statement_);
    if (status != SQLITE_ROW && status != SQLITE_DONE) db_.fail("index.sqlite");
    return status == SQLITE_ROW;
  }
  void again() { sqlite3_reset(statement_), bound_ = 0; }
  std::string text(int i) const {
    const auto* v = reinterpret_cast<const char*>(sqlite3_column_text(statement_, i));
    return v ? v : "";
  }
  double number(int i) const { return sqlite3_column_double(statement_, i); }
  std::int64_t count(int i) const { return sqlite3_column_int64(statement_, i); }

 private:
  const Database& db_;
  sqlite3_stmt* statement_ = nullptr;
  int bound_ = 0;
};

StoredRun row_of(const std::string& folder, const Figures& f) {
  StoredRun r;
  r.folder = folder, r.campaign = f.run.campaign, r.variant = f.run.variant;
  r.recipe = f.run.recipe, r.status = words(f.status);
  r.settings = in_words(f.run.settings);
  r.speed = f.run.speed, r.yaw = f.run.yaw;
  r.half = f.run.half, r.layers = f.run.layers, r.lattice = f.run.lattice + 1;
  r.iterations = f.iterations, r.cells = f.cells;
  r.cd = f.cd.mean, r.cd_half_interval = f.cd.half_interval;
  r.cl = f.cl.mean, r.cl_half_interval = f.cl.half_interval;
  r.clf = f.clf.mean, r.clr = f.clr.mean, r.cy = f.cy.mean;
  r.drag_area = f.cd.mean * f.reference.frontal_area, r.drag = f.drag, r.lift = f.lift;
  r.seconds = f.seconds;
  return r;
}

/// Folders with a record, from `folder`; hidden ones are results in the making.
std::vector<fs::path> folders_with_records(const fs::path& folder) {
  std::vector<fs::path> found;
  std::error_code status;
  for (fs::recursive_directory_iterator it(folder, status), end; it != end; it.increment(status)) {
    if (status) break;
    if (!it->is_directory(status)) continue;
    const std::string name = it->path().filename().string();
    if (name.starts_with(".")) {
      it.disable_recursion_pending();
    } else if (fs::exists(it->path() / record_file::numbers, status)) {
      found.push_back(it->path());
      it.disable_recursion_pending();
    }
  }
  if (fs::exists(folder / record_file::numbers, status)) found.push_back(folder);
  std::sort(found.begin(), found.end());
  return found;
}

std::string names(const char* with_type) {
  std::string out;
  for (const Column& c : columns)
    out += fmt::format("{}{}{}", out.empty() ? "" : ", ", c.name,
                       *with_type ? std::string(" ") + c.type : "");
  return out;
}

/// The index, with the right columns, or an empty one.
void make_tables(const Database& db) {
  Statement version(db, "PRAGMA user_version");
  const bool current = version.step() && version.count(0) == index_version;
  if (!current) db.run("DROP TABLE IF EXISTS runs");
  db.run("CREATE TABLE IF NOT EXISTS runs (changed INTEGER, size INTEGER, " + names("typed") +
         ", PRIMARY KEY (folder))");
  if (!current) db.run(fmt::format("PRAGMA user_version = {}", index_version));
}

void store(const Database& db, const StoredRun& run, std::int64_t changed, std::int64_t size) {
  std::string places = "?, ?";
  for (std::size_t i = 0; i < std::size(columns); ++i) places += ", ?";
  Statement insert(
      db, "INSERT OR REPLACE INTO runs (changed, size, " + names("") + ") VALUES (" + places + ")");
  insert.bind(changed).bind(size);
  for (const Column& c : columns) {
    if (c.text) insert.bind(run.*c.text);
    if (c.number) insert.bind(run.*c.number);
    if (c.count) insert.bind(static_cast<std::int64_t>(run.*c.count));
  }
  insert.step();
}

/// Rows of what has changed since, none of what is gone.
void refresh(const Database& db, const fs::path& folder, Findings& findings) {
  std::set<std::string> there;
  Statement known(db, "SELECT changed, size FROM runs WHERE folder = ?");
  for (const fs::path& path : folders_with_records(folder)) {
    const std::string name = path.lexically_relative(folder).generic_string();
    const fs::path file = path / record_file::numbers;
    std::error_code status;
    const std::int64_t changed = fs::last_write_time(file, status).time_since_epoch().count();
    const auto size = static_cast<std::int64_t>(fs::file_size(file, status));
    there.insert(name);
    known.again();
    if (known.bind(name).step() && known.count(0) == changed && known.count(1) == size) continue;
    try {
      store(db, row_of(name, read_figures(path)), changed, size);
    } catch (const InputError& e) {
      there.erase(name);
      findings.warn(e.what());
    }
  }
  std::vector<std::string> gone;
  for (Statement all(db, "SELECT folder FROM runs"); all.step();)
    if (!there.count(all.text(0))) gone.push_back(all.text(0));
  for (const std::string& name : gone)
    Statement(db, "DELETE FROM runs WHERE folder = ?").bind(name).step();
}

std::vector<StoredRun> selected(const Database& db, const RunFilter& f) {
  std::string sql = "SELECT " + names("") + " FROM runs WHERE 1";
  const std::pair<const char*, const std::string*> wanted[] = {{"campaign", &f.campaign},
                                                               {"variant", &f.variant},
                                                               {"recipe", &f.recipe},
                                                               {"status", &f.status}};
  for (const auto& [name, value] : wanted)
    if (!value->empty()) sql += fmt::format(" AND {} = ?", name);
  if (f.speed > 0) sql += " AND abs(speed_m_s / ? - 1) < 0.001";
  sql += f.sort_by.empty()
             ? " ORDER BY campaign, speed_m_s, settings, variant, lattice, folder"
             : fmt::format(" ORDER BY {}{}, folder", f.sort_by, f.descending ? " DESC" : "");
  Statement query(db, sql);
  for (const auto& [name, value] : wanted)
    if (!value->empty()) query.bind(*value);
  if (f.speed > 0) query.bind(f.speed);
  std::vector<StoredRun> runs;
  while (query.step()) {
    StoredRun& run = runs.emplace_back();
    int i = 0;
    for (const Column& c : columns) {
      if (c.text) run.*c.text = query.text(i);
      if (c.number) run.*c.number = query.number(i);
      if (c.count) run.*c.count = static_cast<int>(query.count(i));
      ++i;
    }
  }
  return runs;
}

std::vector<StoredRun> brought_up_to_date(const fs::path& index, const fs::path& folder,
                                          const RunFilter& filter, Findings& findings) {
  const Database db(index);
  db.run("BEGIN IMMEDIATE");
  make_tables(db);
  refresh(db, folder, findings);
  db.run("COMMIT");
  return selected(db, filter);
}

}  // namespace

const std::vector<std::string>& index_columns() {
  static const std::vector<std::string> all = [] {
    std::vector<std::string> out;
    for (const Column& c : columns) out.emplace_back(c.name);
    return out;
  }();
  return all;
}

std::vector<CsvCell> index_values(const StoredRun& run) {
  std::vector<CsvCell> out;
  for (const Column& c : columns)
    out.push_back(c.text     ? CsvCell(run.*c.text)
                  : c.number ? CsvCell(run.*c.number)
                             : CsvCell(run.*c.count));
  return out;
}

std::vector<StoredRun> stored_runs(const fs::path& folder, const RunFilter& filter,
                                   Findings& findings) {
  std::error_code status;
  if (!fs::is_directory(folder, status))
    throw InputError("there is no such folder", folder.string(),
                     "name one with results, or a campaign file");
  const auto& known = index_columns();
  if (!filter.sort_by.empty() &&
      std::find(known.begin(), known.end(), filter.sort_by) == known.end())
    throw InputError("'" + filter.sort_by + "' is no column", "--sort",
                     fmt::format("use one of {}", fmt::join(known, ", ")));
  const fs::path file = folder / "index.sqlite";
  // All that it holds stands in the records, too: one that is damaged is made anew.
  for (const bool again : {false, true}) try {
      findings = {};
      const fs::path aside = file.string() + ".damaged";
      if (again && !put_in_place(file, aside))
        findings.note("the index of runs was damaged and is made anew; the old one is " +
                      aside.filename().string());
      return brought_up_to_date(file, folder, filter, findings);
    } catch (const OutputError&) {  // or the folder cannot be written
    }
  findings = {};
  return brought_up_to_date(":memory:", folder, filter, findings);
}

}  // namespace dunefield

// Records that are damaged or made to do harm: refused in one line, and nothing else happens.
#include <gtest/gtest.h>

#include <functional>
#include <limits>

#include <dunefield/base/array_file.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/record/readings.hpp>
#include <dunefield/run/saved_state.hpp>
#include <tests/run/small_run.hpp>
#include <tests/support/damage.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class DamagedRecords : public testing::Test {
 protected:
  DamagedRecords() { small_record().save(record_); }
  std::string refusal() const {
    try {
      readings_of(Record::open(record_));
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  const TemporaryFolder folder_;
  const std::filesystem::path record_ = folder_ / "r", json_ = record_ / "record.json",
                              arrays_ = record_ / "record.arrays";
};

/// The arrays of a record, changed by `harm`, with proper checksums.
struct Arrays {
  std::vector<int> cells, face_start, face_points, cell_below, cell_above, kinds, counts;
  std::vector<Vec3> points, velocity;
  std::vector<double> pressure;
  std::vector<char> names;
  std::vector<WallLoad> loads;

  template <class Visit>
  static void visit(auto& a, const Visit& with) {
    with("cells", a.cells), with("points", a.points), with("face start", a.face_start);
    with("face points", a.face_points), with("cell below", a.cell_below);
    with("cell above", a.cell_above), with("boundary names", a.names);
    with("boundary kinds", a.kinds), with("boundary counts", a.counts);
    with("velocity", a.velocity), with("pressure over density", a.pressure);
    with("wall loads", a.loads);
  }
};

TEST_F(DamagedRecords, WithIndicesOutOfRangeAreRefused) {
  Arrays good;
  ArrayFileReader in(arrays_);
  Arrays::visit(good, [&]<class T>(const char* name, std::vector<T>& v) { v = in.take<T>(name); });
  constexpr int far = std::numeric_limits<int>::max();
  const std::vector<std::function<void(Arrays&)>> harms = {
      [](Arrays& a) { a.cell_below[5] = far; },
      [](Arrays& a) { a.cell_below[5] = -3; },
      [](Arrays& a) { a.cell_above[0] = far; },
      [](Arrays& a) { a.cells = {}; },
      [](Arrays& a) { a.cells = {-1}; },
      [](Arrays& a) { a.cells = {far}; },
      [](Arrays& a) { a.face_start[9] = far; },
      [](Arrays& a) { a.face_start.resize(2); },
      [](Arrays& a) { a.face_points[17] = far; },
      [](Arrays& a) { a.points.resize(10); },
      [](Arrays& a) { a.points[4].z = std::numeric_limits<double>::infinity(); },
      [](Arrays& a) { a.names.pop_back(); },
      [](Arrays& a) { a.names.clear(); },
      [](Arrays& a) { a.kinds[0] = 1000; },
      [](Arrays& a) { a.kinds.pop_back(); },
      [](Arrays& a) { a.counts[0] = -7; },
      [](Arrays& a) { a.counts[0] = far; },
      [](Arrays& a) { a.velocity.pop_back(); },
      [](Arrays& a) { a.velocity[2].x = std::numeric_limits<double>::quiet_NaN(); },
      [](Arrays& a) { a.pressure.resize(3); },
      [](Arrays& a) { a.loads.pop_back(); }};
  for (std::size_t i = 0; i < harms.size(); ++i) {
    Arrays bad = good;
    harms[i](bad);
    ArrayFileWriter out(arrays_);
    Arrays::visit(bad, [&](const char* name, const auto& v) { out.put(name, v); });
    out.finish();
    EXPECT_NE(refusal().find("record.arrays"), std::string::npos) << "harm " << i << refusal();
  }
}

TEST_F(DamagedRecords, WithAnyValueOfTheWrongKindAreRefusedOrRead) {
  const Json good = parsed_json(read_text(json_), "record.json");
  const Json flat = good.flatten();
  const std::vector<Json> others = {nullptr, "text", -1, 1e300, Json::object(), Json::array()};
  std::size_t refused = 0;
  for (const auto& [pointer, value] : flat.items())
    for (const Json& other : others) {
      Json bad = good;
      bad[Json::json_pointer(pointer)] = other;
      std::ofstream(json_) << bad.dump();
      const std::string said = refusal();
      EXPECT_EQ(said.find('\n'), std::string::npos) << pointer;
      refused += !said.empty();
    }
  EXPECT_GT(refused, others.size() * flat.size() / 4);
  for (const char* text : {"", "{", "[]", "3", "{\"schema\":3}", "{\"schema\":{\"name\":4}}",
                           "{\"schema\":{\"name\":\"dunefield record\",\"version\":\"x\"}}"}) {
    write_text(json_, text);
    EXPECT_THROW(read_figures(record_), InputError) << text;
  }
  write_text(json_, std::string(300'000, '['));
  EXPECT_THROW(read_figures(record_), InputError) << "nested for ever";
}

TEST_F(DamagedRecords, NameNoFilesOfOthers) {
  Json bad = parsed_json(read_text(json_), "record.json");
  for (const std::string& name : std::vector<std::string>{
           "../../victim", "/tmp/victim", ".hidden", "a/b", "", "long" + std::string(300, 'x')}) {
    bad["setup"]["readings"]["pictures"] = {{{"name", name}, {"words", Json::array()}}};
    write_text(json_, bad.dump());
    EXPECT_NE(refusal().find("is no name for a picture's file"), std::string::npos) << name;
  }
}

TEST_F(DamagedRecords, ReachTerminalsWithoutControlCharacters) {
  Json bad = parsed_json(read_text(json_), "record.json");
  bad["run"]["variant"] = "red \x1b[31m \xC2\x9B paint";
  write_text(json_, bad.dump());
  const std::string name = read_figures(record_).run.variant;
  EXPECT_EQ(name, "red  [31m    paint");
}

TEST_F(DamagedRecords, OfAnyBytesAreRefusedOrRead) {
  for (const auto& file : {json_, arrays_, record_ / "history.csv"})
    expect_taken_or_refused([&] { readings_of(Record::open(record_)); }, file, 60);
}

}  // namespace
}  // namespace dunefield::test

// Records: what a run leaves stands by itself.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/look/standard_pictures.hpp>
#include <dunefield/record/quantities.hpp>
#include <dunefield/record/readings.hpp>
#include <dunefield/record/shared_mesh.hpp>
#include <tests/run/small_run.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Records : public testing::Test {
 protected:
  Records() { small_record().save(folder_ / "r"); }
  /// What opening the folder says.
  std::string refusal() const {
    try {
      Record::open(folder_ / "r");
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
};

TEST_F(Records, OpenedAgainHasTheSameNumbers) {
  const Record &a = small_record(), b = Record::open(folder_ / "r");
  EXPECT_EQ(b.mesh->points, a.mesh->points);
  EXPECT_EQ(b.mesh->face_area, a.mesh->face_area);
  ASSERT_EQ(b.mesh->boundaries.size(), a.mesh->boundaries.size());
  for (std::size_t i = 0; i < a.mesh->boundaries.size(); ++i) {
    EXPECT_EQ(b.mesh->boundaries[i].name, a.mesh->boundaries[i].name);
    EXPECT_EQ(b.mesh->boundaries[i].first, a.mesh->boundaries[i].first);
  }
  EXPECT_EQ(b.fields.u, a.fields.u);
  EXPECT_EQ(b.fields.nu_t, a.fields.nu_t);
  EXPECT_EQ(b.history.size(), a.history.size());
  EXPECT_EQ(b.history.back().c.cd, a.history.back().c.cd);
  EXPECT_EQ(b.history.back().c.clf(), a.history.back().c.clf());
  EXPECT_EQ(b.balance.total().force.x, a.balance.total().force.x);
  EXPECT_EQ(b.brief(), a.brief());
  EXPECT_EQ(b.why(), a.why());
  EXPECT_EQ(b.quality.summary[0].worst_value(), a.quality.summary[0].worst_value());
  EXPECT_EQ(b.run.hashes.flow, a.run.hashes.flow);
  EXPECT_EQ(fingerprint_of(*b.mesh), fingerprint_of(*a.mesh));
  for (const Quantity& q : quantities(a)) {
    if (q.in_air && !q.vector) {
      EXPECT_EQ(scalar_in_air(b, q.name), scalar_in_air(a, q.name));
    }
    if (q.on_wall && q.vector) {
      EXPECT_EQ(vector_on_wall(b, q.name), vector_on_wall(a, q.name));
    }
  }
}

TEST_F(Records, FiguresAreReadWithoutMeshAndFields) {
  std::filesystem::remove(folder_ / "r/record.arrays");
  const Figures f = read_figures(folder_ / "r"), own = small_record().figures();
  EXPECT_EQ(f.cd.mean, own.cd.mean);
  EXPECT_EQ(f.drag, own.drag);
  EXPECT_EQ(f.iterations, 15);
  EXPECT_TRUE(f.run.half);
  EXPECT_FALSE(f.settled());
  EXPECT_NE(refusal().find("record.arrays"), std::string::npos) << refusal();
}

TEST_F(Records, SavedAgainIsTheSameToTheByte) {
  Record::open(folder_ / "r").save(folder_ / "s");
  for (const char* file : {"history.csv", "record.arrays"})
    EXPECT_EQ(read_text(folder_ / "r" / file), read_text(folder_ / "s" / file)) << file;
}

TEST_F(Records, OfOneMeshShareIt) {
  const Record first = Record::open(folder_ / "r"), second = open_beside(first, folder_ / "r");
  EXPECT_EQ(second.mesh, first.mesh);
  EXPECT_EQ(second.fields.u, first.fields.u);
  EXPECT_EQ(second.brief(), first.brief());
  Record other = first;
  other.run.hashes.mesh = "of another";
  EXPECT_NE(open_beside(other, folder_ / "r").mesh, first.mesh);
}

TEST_F(Records, WhatCannotBeOpenedIsNamedWithAdvice) {
  const std::string json = read_text(folder_ / "r/record.json"),
                    history = read_text(folder_ / "r/history.csv");
  const auto with = [&](const char* file, const std::string& text) {
    write_text(folder_ / "r/record.json", json), write_text(folder_ / "r/history.csv", history);
    write_text(folder_ / "r" / file, text);
    return refusal();
  };
  auto newer = nlohmann::ordered_json::parse(json);
  newer["schema"]["version"] = 99;
  EXPECT_NE(with("record.json", newer.dump()).find("newer version"), std::string::npos);
  EXPECT_NE(with("record.json", json.substr(0, 900)).find("damaged"), std::string::npos);
  newer["schema"]["version"] = 1;
  newer.erase("coefficients");
  EXPECT_NE(with("record.json", newer.dump()).find("record.json: is damaged"), std::string::npos);
  EXPECT_NE(with("history.csv", history.substr(0, history.size() / 2)).find("history.csv"),
            std::string::npos);
  write_text(folder_ / "r/history.csv", history);
  const std::string arrays = read_text(folder_ / "r/record.arrays");
  write_text(folder_ / "r/record.arrays", arrays.substr(0, arrays.size() / 2));
  EXPECT_NE(refusal().find("record.arrays: is cut short; run that case again"), std::string::npos)
      << refusal();
  std::filesystem::remove(folder_ / "r/record.json");
  EXPECT_NE(refusal().find("this is no record"), std::string::npos);
  std::filesystem::remove_all(folder_ / "r");
  EXPECT_NE(refusal().find("no such folder"), std::string::npos);
}

TEST_F(Records, AFolderThatCannotBeWrittenIsToldSo) {
  EXPECT_THROW(small_record().save("/proc/none"), OutputError);
  EXPECT_THROW(small_record().save("/dev/full"), OutputError);
}

TEST_F(Records, EverythingBesideThemCanBeMadeAgain) {
  const Record r = Record::open(folder_ / "r");
  write_readings(folder_ / "r", r, readings_of(r));
  draw_standard_pictures(folder_ / "r", r);
  write_open_data(folder_ / "r", r);
  EXPECT_NE(read_text(folder_ / "r/taps.csv").find("nose"), std::string::npos)
      << "the record knows what was read";
  for (const char* file : {"air.vtu", "wall.vtp", "build-up.csv", "pressure.png", "speed.png",
                           "history.png", "build-up.png"})
    EXPECT_GT(std::filesystem::file_size(folder_ / "r" / file), 1000u) << file;
}

TEST_F(Records, QuantitiesHaveUnitsAndAgreeWithEachOther) {
  const Record& r = small_record();
  const double q = r.reference.dynamic_pressure();
  const auto p = scalar_in_air(r, "pressure"), cp = scalar_in_air(r, "Cp"),
             total = scalar_in_air(r, "total Cp"), speed = scalar_in_air(r, "speed");
  for (std::size_t c = 0; c < p.size(); c += 101) {
    EXPECT_NEAR(cp[c], p[c] / q, 1e-12);
    EXPECT_NEAR(total[c], cp[c] + speed[c] * speed[c] / 400, 1e-12);
  }
  for (const Quantity& k : quantities(r)) EXPECT_TRUE(k.in_air || k.on_wall) << k.name;
  // The wall's loads add up to the balance.
  const auto shear = vector_on_wall(r, "wall shear");
  double friction = 0;
  for (const Boundary& b : r.mesh->boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f)
      friction += 2 * shear[at(f - r.mesh->interior_faces())].x * norm(r.mesh->face_area[at(f)]);
  EXPECT_NEAR(friction, r.balance.friction().force.x, 1e-9 * std::abs(friction));
  try {
    scalar_in_air(r, "temperature");
    FAIL();
  } catch (const InputError& e) {
    EXPECT_NE(std::string(e.what()).find("no 'temperature' as a number in the air"),
              std::string::npos);
    EXPECT_NE(std::string(e.what()).find("it has velocity, speed, speed ratio"), std::string::npos)
        << e.what();
  }
}

TEST_F(Records, VorticityIsTheCurlOfTheVelocity) {
  Record r = small_record();
  const Vec3 spin{0.3, -0.2, 0.5};
  for (std::size_t c = 0; c < r.fields.u.size(); ++c)
    r.fields.u[c] = cross(spin, r.mesh->cell_centre[c]);
  const auto w = vector_in_air(r, "vorticity");
  double worst = 0;
  for (const Vec3& v : w) worst = std::max(worst, norm(v - spin * 2));
  EXPECT_LT(worst, 1e-3);
}

}  // namespace
}  // namespace dunefield::test

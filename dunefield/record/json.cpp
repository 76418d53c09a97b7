#include <dunefield/record/json.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/valid_text.hpp>

namespace dunefield {
namespace {

/// "size step" becomes "size_step", and a unit is put behind.
std::string key_of(const MeasureSummary& s) {
  std::string key = s.name + (s.unit.empty() ? "" : "_" + s.unit);
  for (char& c : key)
    if (c == ' ' || c == '-') c = '_';
  return key;
}

}  // namespace

Json parsed_json(const std::string& text, const std::string& where) {
  constexpr int deepest = 64;  // what writes and frees it again goes down by calls
  const auto shallow = [&](int depth, Json::parse_event_t event, Json& read) {
    // Names and sentences end on terminals.
    if (event == Json::parse_event_t::value && read.is_string())
      read = valid_text(read.get<std::string>());
    if (depth > deepest)
      throw InputError(fmt::format("is damaged: it is nested more than {} deep", deepest), where,
                       "copy it again, or make it anew");
    return true;
  };
  Json j = Json::parse(text, shallow, false);
  if (j.is_discarded())
    throw InputError("is damaged: it is no JSON", where, "copy it again, or make it anew");
  return j;
}

Json findings_json(const Findings& findings) {
  Json list = Json::array();
  for (const Finding& f : findings) {
    list.push_back(
        {{"level", f.level == Finding::Level::warning ? "warning" : "note"}, {"text", f.text}});
    if (!f.id.empty()) list.back()["id"] = f.id;
  }
  return list;
}

Findings findings_from(const Json& list) {
  Findings out;
  for (const Json& f : list) {
    const std::string id = f.value("id", "");  // none in records of before
    if (f.at("level") == "warning")
      out.warn(f.at("text"), id);
    else
      out.note(f.at("text"), id);
  }
  return out;
}

Json quality_json(const MeshQuality& q) {
  Json all = {{"cells", q.cells},
              {"faces", q.faces},
              {"points", q.points},
              {"worst_closure", q.worst_closure},
              {"smallest_volume_m3", q.smallest_volume},
              {"negative_pyramids", q.negative_pyramids},
              {"regions", q.regions},
              {"good", q.good()}};
  for (const MeasureSummary& s : q.summary) {
    Json worst = Json::array();
    for (const MeasuredPlace& w : s.worst)
      worst.push_back({{"value", w.value}, {"at_m", vector_json(w.place)}});
    all[key_of(s)] = {{"mean", s.mean},
                      {"worst", s.worst_value()},
                      {"limit", s.limit},
                      {"tolerated", s.tolerates_any() ? Json() : Json(s.tolerated)},
                      {"beyond_limit", s.beyond},
                      {"share_beyond", s.share_beyond()},
                      {"histogram", {{"steps", s.steps}, {"counts", s.classes}}},
                      {"places", worst}};
  }
  return all;
}

MeshQuality quality_from(const Json& j) {
  MeshQuality q = empty_quality();
  q.cells = j.at("cells"), q.faces = j.at("faces"), q.points = j.at("points");
  q.worst_closure = j.at("worst_closure"), q.smallest_volume = j.at("smallest_volume_m3");
  q.negative_pyramids = j.at("negative_pyramids"), q.regions = j.at("regions");
  for (MeasureSummary& s : q.summary) {
    const Json& m = j.at(key_of(s));
    s.mean = m.at("mean"), s.beyond = m.at("beyond_limit");
    s.classes = m.at("histogram").at("counts").get<std::vector<std::int64_t>>();
    s.count = 0;
    for (const std::int64_t n : s.classes) s.count += n;
    for (const Json& w : m.at("places"))
      s.worst.push_back({w.at("value"), vector_from(w.at("at_m")), -1});
  }
  return q;
}

Json gaps_json(const std::vector<NarrowGap>& gaps) {
  Json list = Json::array();
  for (const NarrowGap& g : gaps)
    list.push_back({{"at_m", vector_json(g.place)},
                    {"width_m", g.width},
                    {"cells_across", g.cells},
                    {"area_m2", g.area},
                    {"between", {g.part, g.other}},
                    {"closed", g.closed}});
  return list;
}

Json layers_json(const LayerReport& l) {
  Json parts = Json::array();
  for (const PartLayers& p : l.parts)
    parts.push_back({{"part", p.part},
                     {"area_m2", p.area},
                     {"share_with_all", p.full_share},
                     {"share_80_percent_thick", p.thick_share},
                     {"share_first_within_20_percent", p.first_share},
                     {"share_step_to_core_0.3_to_1.5", p.step_share},
                     {"mean_first_height_m", p.mean_first_height}});
  Json ends = Json::array();
  for (const auto& [end, share] : l.ends)
    ends.push_back({{"why", in_words(end)}, {"share", share}});
  return {{"cells", l.cells},
          {"share_with_all", l.full_share()},
          {"fewer_where", ends},
          {"share_80_percent_thick", l.thick_share()},
          {"parts", parts}};
}

}  // namespace dunefield

#include <dunefield/campaign/verdicts.hpp>

#include <algorithm>
#include <cctype>

#include <fmt/format.h>

namespace dunefield {
namespace {

/// Squares of the two parts of an uncertainty, percent of the baseline's drag.
struct Parts {
  double history = 0, mesh = 0;
};

Parts parts_of(const ComparisonRow& row, const Figures& base) {
  const double percent = 100 / base.cd.mean,
               history = std::hypot(row.run.cd.half_interval, base.cd.half_interval) * percent,
               all = row.cd->uncertainty * percent;
  return {history * history, std::max(0.0, all * all - history * history)};
}

/// Mean over conditions, of which `parts` has one entry each.
Difference mean_of(const std::vector<ConditionVerdict>& at, const std::vector<Parts>& parts) {
  Difference mean;
  double histories = 0, mesh = 0;
  const auto n = static_cast<double>(at.size());
  for (std::size_t i = 0; i < at.size(); ++i) {
    mean.value += at[i].drag.value / n;
    histories += parts[i].history / (n * n), mesh += std::sqrt(parts[i].mesh) / n;
  }
  mean.uncertainty = std::sqrt(histories + mesh * mesh);
  return mean;
}

bool has_verdict(const ComparisonRow& r) {
  return r.drag && (r.verdict == Verdict::better || r.verdict == Verdict::worse ||
                    r.verdict == Verdict::within_noise);
}

/// "60, 90, 120 km/h", or how many conditions there are.
std::string conditions(const std::vector<ConditionVerdict>& at, const DisplayUnits& units) {
  std::string speeds;
  for (const ConditionVerdict& c : at) {
    if (!c.settings.empty()) return fmt::format("{} conditions", at.size());
    speeds += fmt::format("{}{:.4g}", speeds.empty() ? "" : ", ", c.speed / units.speed.size);
  }
  return speeds + " " + units.speed.name;
}

std::string capitalised(std::string name) {
  if (!name.empty()) name[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(name[0])));
  return name;
}

std::string sentence_of(const VariantVerdict& v, const DisplayUnits& units) {
  const std::string where =
      v.at.size() > 1
          ? fmt::format(" (mean of {})", conditions(v.at, units))
          : fmt::format(" at {}", conditions_in_words(v.at[0].speed, v.at[0].settings, units));
  if (v.verdict == Verdict::within_noise)
    return fmt::format("{}: no difference in drag shown, {:+.1f} ± {:.1f} %{}.",
                       capitalised(v.variant), v.drag.value, v.drag.uncertainty, where);
  return fmt::format("{}: {:.1f} ± {:.1f} % {} drag{}.", capitalised(v.variant),
                     std::abs(v.drag.value), v.drag.uncertainty, v.drag.value < 0 ? "less" : "more",
                     where);
}

/// What it does to downforce, where that is wanted: the words of each condition.
std::string on_downforce(const std::vector<const ComparisonRow*>& rows, const Wants& wants) {
  if (!wants.more_downforce && !wants.less_downforce) return "";
  std::vector<std::string> words;
  for (const ComparisonRow* r : rows)
    if (const std::string one = verdict_in_words(*r, wants);
        has_verdict(*r) && std::find(words.begin(), words.end(), one) == words.end())
      words.push_back(one);
  std::string out;
  for (const std::string& w : words) out += " " + capitalised(w) + ".";
  return out;
}

}  // namespace

std::vector<VariantVerdict> verdicts(const std::vector<Figures>& runs, const std::string& baseline,
                                     const Wants& wants, const DisplayUnits& units) {
  std::vector<VariantVerdict> all;
  std::vector<std::vector<Parts>> parts;
  std::vector<std::vector<const ComparisonRow*>> rows;
  const std::vector<Comparison> comparisons = compare(runs, baseline);
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows) {
      if (r.verdict == Verdict::baseline || !c.baseline) continue;
      auto v = std::find_if(all.begin(), all.end(), [&](const VariantVerdict& one) {
        return one.variant == r.run.run.variant;
      });
      if (v == all.end()) {
        v = all.emplace(v);
        v->variant = r.run.run.variant, v->verdict = r.verdict;
        parts.emplace_back(), rows.emplace_back();
      }
      const auto i = static_cast<std::size_t>(v - all.begin());
      rows[i].push_back(&r);
      if (!has_verdict(r)) {
        ++v->without;
        continue;
      }
      const double percent = 100 / c.baseline->cd.mean;
      v->at.push_back(
          {c.speed, c.settings, {r.cd->value * percent, r.cd->uncertainty * percent}, r.verdict});
      parts[i].push_back(parts_of(r, *c.baseline));
    }
  for (std::size_t i = 0; i < all.size(); ++i) {
    VariantVerdict& v = all[i];
    if (v.at.empty()) {
      const std::string why = words(v.verdict);
      v.sentence = fmt::format("{}: no verdict ({}).", capitalised(v.variant),
                               why.starts_with("none: ") ? why.substr(6) : why);
      continue;
    }
    v.drag = mean_of(v.at, parts[i]);
    v.verdict = v.drag.within_noise() ? Verdict::within_noise
                : v.drag.value < 0    ? Verdict::better
                                      : Verdict::worse;
    v.sentence = sentence_of(v, units) + on_downforce(rows[i], wants);
    if (v.without > 0)
      v.sentence += fmt::format(" No verdict at {} of {} conditions.", v.without,
                                static_cast<int>(v.at.size()) + v.without);
  }
  std::stable_sort(all.begin(), all.end(), [](const VariantVerdict& a, const VariantVerdict& b) {
    const auto weight = [](const VariantVerdict& v) {
      return v.at.empty() ? -1.0 : std::abs(v.drag.value);
    };
    return weight(a) > weight(b);
  });
  return all;
}

}  // namespace dunefield

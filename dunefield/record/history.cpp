#include <dunefield/record/history.hpp>

#include <dunefield/base/csv.hpp>
#include <dunefield/base/error.hpp>

namespace dunefield {

std::string history_csv(const std::vector<HistoryRow>& history) {
  CsvTable table({"iteration", "momentum_residual", "mass_imbalance", "CD", "CL", "CLF", "CLR",
                  "CY", "CRM", "CPM", "CYM", "momentum_drag_N", "change", "recombined", "time_s"});
  for (const HistoryRow& h : history)
    table.add({h.iteration, h.momentum_residual, h.mass_imbalance, h.c.cd, h.c.cl, h.c.clf(),
               h.c.clr(), h.c.cy, h.c.crm, h.c.cpm, h.c.cym, h.momentum_drag, h.change,
               h.recombined ? 1.0 : 0.0, h.time});
  return table.text();
}

std::vector<HistoryRow> history_from_csv(const std::string& text, const std::string& where) {
  std::vector<HistoryRow> history;
  for (const std::vector<double>& v : csv_numbers(text)) {
    if (v.size() != 15 && v.size() != 14 && v.size() != 12)
      throw InputError("is no history of a run", where, "run that case again");
    HistoryRow h{static_cast<int>(v[0]), v[1], v[2], {}, v[11]};
    h.c = {v[3], v[4], v[7], v[8], v[9], v[10]};
    if (v.size() > 12) h.change = v[12], h.recombined = v[13] > 0;  // not in records of before
    if (v.size() > 14) h.time = v[14];
    history.push_back(h);
  }
  return history;
}

const char* words(RunStatus status) {
  switch (status) {
    case RunStatus::steady: return "steady";
    case RunStatus::fluctuating: return "fluctuating";
    case RunStatus::not_converged: return "not converged";
    case RunStatus::stopped: return "stopped on request";
  }
  return "";
}

RunStatus status_from(const std::string& text, const std::string& where) {
  for (const RunStatus s :
       {RunStatus::steady, RunStatus::fluctuating, RunStatus::not_converged, RunStatus::stopped})
    if (text == words(s)) return s;
  throw InputError("'" + text + "' is no status of a run", where, "run that case again");
}

}  // namespace dunefield

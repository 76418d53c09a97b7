// What a campaign will take, before anything is made.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/campaign/run_store.hpp>

namespace dunefield {

struct PlannedRun {
  std::string variant;
  double speed = 0;      ///< m/s
  std::string settings;  ///< in words
  int lattice = 0;
  std::filesystem::path folder;
  ToDo to_do = ToDo::all;
  double cells = 0;       ///< those of the result that is there, else predicted
  double iterations = 0;  ///< expected; 0: done
  double seconds = 0;     ///< the same, with the mesh where it has to be made
  double bytes = 0;       ///< of memory, at the most
  bool meshes = false;    ///< its mesh has to be made
};

/// What a run asks of a cluster. The first process makes the mesh, holds all of it and shares it
/// out; flow and its memory are spread over all ranks.
struct ClusterNeed {
  int ranks = 1;            ///< sensible ones, of one core each
  double mesh_seconds = 0;  ///< the other ranks wait meanwhile
  double flow_seconds = 0;
  double first_bytes = 0;  ///< of the first process, at the most
  double rank_bytes = 0;   ///< of each other one
  double core_hours() const { return ranks * (mesh_seconds + flow_seconds) / 3600; }
};

/// Ranks with 50 000 cells each, which are assumed to be used to 80 %. Costs are those of the
/// machine of docs/theory/performance.md. @param most_ranks that there are
ClusterNeed cluster_need(const PlannedRun& run, int most_ranks = 1024);

/// Runs in their order. Cells are predicted from the octree; times are those of this campaign's own
/// finished runs where there are any, else of the machine of docs/theory/performance.md.
/// @param threads that the runs will have
/// @param matrix of which runs, those that are wanted are told; empty: all of the campaign
std::vector<PlannedRun> plan_of(const CampaignSetup& setup, const std::filesystem::path& folder,
                                int threads, const Progress& progress = {},
                                const std::vector<MatrixRun>& matrix = {});

}  // namespace dunefield

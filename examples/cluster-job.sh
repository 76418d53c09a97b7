#!/bin/bash
# A campaign as a job of the Slurm scheduler, ranks as MPI processes over all nodes of the job:
#   dunefield plan my-car.toml --cluster                        # ranks, memory and core hours of each run
#   sbatch examples/cluster-job.sh my-car.toml                  # run after run
#   sbatch --array=1-6 --ntasks=8 examples/cluster-job.sh my-car.toml   # six at a time, each on ranks of its own
# A job that reaches its time limit saves its state before. Give the same line again to continue; finished runs are kept.
# Elements of an array take runs that no other has begun. They share the campaign's folder by file locks, which its file
# system must support between machines (NFS 4; Lustre with -o flock).
#SBATCH --job-name=dunefield
#SBATCH --ntasks=32
#SBATCH --cpus-per-task=1
#SBATCH --time=08:00:00
#SBATCH --output=dunefield-%j.txt
set -euo pipefail
campaign=${1:?"name a campaign file: sbatch cluster-job.sh my-car.toml"}

# What is left of the job's time, less ten minutes to save and write in (or a fifth of a short job).
end=$(scontrol show job "$SLURM_JOB_ID" | sed -n 's/.* EndTime=\([^ ]*\).*/\1/p')
left=$(($(date -d "$end" +%s) - $(date +%s)))
reserve=$((left / 5 < 600 ? left / 5 : 600))

status=0
mpiexec -n "$SLURM_NTASKS" "${DUNEFIELD:-dunefield}" run "$campaign" --time-limit "$((left - reserve)) s" || status=$?
if [ "$status" -eq 3 ]; then
  echo "stopped at the time limit with its state saved; give the same line again to go on"
fi
exit "$status"

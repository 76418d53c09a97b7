#include <dunefield/look/film.hpp>

#include <sys/wait.h>
#include <unistd.h>
#include <cstdlib>
#include <vector>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/base/text_file.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char encoder[] = "ffmpeg";

/// Runs a program found on the path, without a shell; its words are lost. @return its exit code
int run_program(const std::vector<std::string>& words) {
  std::vector<char*> arguments;
  for (const std::string& w : words) arguments.push_back(const_cast<char*>(w.c_str()));
  arguments.push_back(nullptr);
  const pid_t child = fork();
  if (child == 0) {
    if (!std::freopen("/dev/null", "w", stdout) || !std::freopen("/dev/null", "w", stderr) ||
        !std::freopen("/dev/null", "r", stdin))
      _exit(126);
    execvp(arguments[0], arguments.data());
    _exit(127);
  }
  int status = 0;
  if (child < 0 || waitpid(child, &status, 0) < 0) return 126;
  return WIFEXITED(status) ? WEXITSTATUS(status) : 126;
}

std::string frame_name(int i) { return fmt::format("frame-{:04}.png", i + 1); }

void draw_frames(const fs::path& folder, const FilmOptions& o,
                 const std::function<Image(int)>& frame, const Progress& progress) {
  check_writable(folder);
  for (int i = 0; i < o.frames; ++i) {
    progress.check();
    progress.report("frames", static_cast<double>(i) / o.frames);
    save_png(folder / frame_name(i), frame(i));
  }
}

}  // namespace

bool film_encoder_found() { return run_program({encoder, "-version"}) == 0; }

void write_film(const fs::path& file, const FilmOptions& o, const std::function<Image(int)>& frame,
                const Progress& progress) {
  const std::string ending = file.extension().string();
  if (ending.empty()) return draw_frames(file, o, frame, progress);
  if (ending != ".mp4" && ending != ".webm")
    throw InputError("a film cannot be written as '" + ending + "'", file.string(),
                     "use .mp4, .webm, or a folder's name for single pictures");
  if (!film_encoder_found())
    throw InputError("no encoder for films is installed (the program ffmpeg)", file.string(),
                     "install it, or name a folder without an ending for single pictures");
  const fs::path frames = name_beside(file);
  draw_frames(frames, o, frame, progress);
  const std::string pattern = (frames / "frame-%04d.png").string(),
                    speed = fmt::format("{:g}", o.frames_per_second);
  std::vector<std::string> words = {
      encoder,    "-y",     "-framerate", speed,
      "-i",       pattern,  "-vf",        "pad=ceil(iw/2)*2:ceil(ih/2)*2",
      "-pix_fmt", "yuv420p"};
  if (ending == ".webm")
    words.insert(words.end(), {"-c:v", "libvpx-vp9", "-crf", "24", "-b:v", "0"});
  const fs::path fresh = name_beside(file).string() + ending;
  words.push_back(fresh.string());
  const int code = run_program(words);
  std::error_code ignored;
  fs::remove_all(frames, ignored);
  const bool placed = code == 0 && !put_in_place(fresh, file);
  if (!placed) fs::remove(fresh, ignored);
  if (code != 0)
    throw OutputError(
        fmt::format("the encoder could not write the film (its exit code is {})", code),
        file.string(), "try the other of .mp4 and .webm");
  if (!placed)
    throw OutputError("the film cannot be put in place", file.string(), "check the folder");
}

}  // namespace dunefield

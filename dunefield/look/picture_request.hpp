// A picture as it is asked for in words, on the command line as in a campaign file.
#pragma once

#include <string>
#include <vector>

#include <dunefield/look/picture.hpp>
#include <dunefield/record/readings.hpp>

namespace dunefield {

/// Each text as docs/guide/pictures.md has them; an empty text asks for the usual.
struct PictureRequest {
  std::string name = "look";
  std::vector<std::string> surface, slice, smoke, volume, cores;
  std::string view;                ///< a name, or "(-1, -0.5, 0.4)"
  std::vector<std::string> range;  ///< "Cp = -1..1"
  int width = -1, height = -1;     ///< pixels; below 0: 1280 x 800, or lower for a slice alone
  double zoom = 1;
  std::string towards;  ///< the middle of what is seen: "(1.3 m, 0.8 m, 0.3 m)"
  bool perspective = false, dark = false;
  std::string chart;   ///< instead of a picture: look/charts.hpp
  std::string series;  ///< slices side by side: "x, from = 1 m, to = 4 m, steps = 6"
  bool nothing() const {
    return surface.empty() && slice.empty() && smoke.empty() && volume.empty() && cores.empty();
  }
};

SurfaceLook surface_look(const std::string& words);
/// @param record none: the words are checked alone
SliceLook slice_look(const std::string& words, const Record* record);
/// @param view none: the words are checked alone
SmokeLook smoke_look(const std::string& words, const FlowView* view);
VolumeLook volume_look(const std::string& words);
VortexOptions cores_look(const std::string& words);

/// The request's direction of sight. @throw InputError
View view_of(const PictureRequest& request);
struct Range {
  std::string quantity;
  double least, most;
};
/// From "Cp = -1..1". @throw InputError
Range range_of(const std::string& words);

/// What can be found wrong without a record. @throw InputError
void check_request(const PictureRequest& request);

/// Puts the picture together. Without anything asked for: the surface, smoke and the wake.
/// @throw InputError naming the words that are wrong
Picture picture_of(std::shared_ptr<const FlowView> view, const PictureRequest& request);

/// The same picture of several records, with one view and one range for each quantity, on one
/// sheet.
struct Looked {
  Image image;
  std::vector<SmokeReport> smoke;  ///< of the first
};
Looked look_at(const std::vector<std::shared_ptr<const FlowView>>& views,
               const PictureRequest& request, const Progress& progress = {});

/// A film of it: "turn" round the vehicle, "sweep, x, from = 1 m, to = 4 m" of its slices, or
/// "beads" that move with the flow; frames = 72, rate = 24. Written as look/film.hpp has it.
void film_of(const std::vector<std::shared_ptr<const FlowView>>& views,
             const PictureRequest& request, const std::string& words,
             const std::filesystem::path& file, const Progress& progress = {});

/// A film of the data that a flow in time has kept: "time, picture = NAME, rate = 24". View,
/// ranges, size, zoom and paper are those of the request where it has them.
/// @param reels folder that holds them. @throw InputError naming those that there are, OutputError
void film_in_time(const std::filesystem::path& reels, const PictureRequest& request,
                  const std::string& words, const std::filesystem::path& file,
                  const Progress& progress = {});
/// Whether a film's words ask for that kind.
bool is_film_in_time(const std::string& words);

/// From the words of a campaign's [[picture]] table: key and text of each entry.
PictureRequest request_from(const WantedPicture& wanted);
/// Draws what a campaign wants of each run into its folder: NAME.png.
/// @return what could not be drawn (a plane beside the air, no vortex found), and why
std::vector<std::string> draw_wanted(const std::filesystem::path& folder, const Record& record,
                                     const std::vector<WantedPicture>& wanted);

}  // namespace dunefield

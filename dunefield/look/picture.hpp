// A picture put together from a record: what is shown, from where, in which ranges. Data first; an
// image when it is rendered.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/image.hpp>
#include <dunefield/look/scene.hpp>
#include <dunefield/look/streamlines.hpp>
#include <dunefield/look/vortex_cores.hpp>

namespace dunefield {

class PlaneCut;

/// The vehicle.
struct SurfaceLook {
  std::string quantity = "Cp";                         ///< on the wall; empty: plain
  std::vector<std::string> only, hidden, translucent;  ///< parts
  double opacity = 1;
  int bands = 0, lines = 0;  ///< steps of colour (or round_steps); labelled lines of equal value
  bool oil_flow = false, tufts = false, turning_lines = false, stagnation = false;
};

/// A plane through the air.
struct SliceLook {
  Plane plane{{}, {0, 1, 0}};
  std::string quantity = "speed ratio";
  bool filled = true;
  int bands = 0, lines = 0;
  bool arrows = false, even_arrows = false;  ///< of even density; even: all of one length
  bool texture = false;                      ///< streaks along the flow
  bool outlines = false;                     ///< of cells
  bool as_cells = false;                     ///< one colour a cell
  Box region;                                ///< of it that is shown; empty: round the vehicle
};

/// Streamlines of one set of seeds.
struct SmokeLook {
  enum class Form { lines, tubes, ribbons, arrows, beads };
  std::string name = "smoke";
  std::vector<Vec3> seeds;
  std::string quantity = "speed ratio";  ///< empty: grey
  Form form = Form::tubes;
  StreamlineOptions how;
  double radius = 0;  ///< m, of tubes; half the width of ribbons; 0: as reads well
  double phase = 0;   ///< of beads: share of the way to the next one
};

/// A surface of equal value.
struct VolumeLook {
  std::string quantity = "total Cp";
  double level = 0;
  std::string coloured_by;  ///< another quantity in the air; empty: one colour
  double opacity = 0.45;
};

/// What smoke was told while it was made.
struct SmokeReport {
  std::string name;
  int lines = 0, outside = 0, stopped = 0;  ///< outside: seeds that lie in no air
};

class Picture {
 public:
  explicit Picture(const Record& record);
  /// Looks at what another picture has opened already.
  explicit Picture(std::shared_ptr<const FlowView> view);

  Picture& surface(const SurfaceLook& look = {});
  Picture& surface(const std::string& quantity);
  Picture& slice(const SliceLook& look);
  Picture& smoke(const SmokeLook& look);
  Picture& smoke(const std::vector<Vec3>& seeds);
  Picture& volume(const VolumeLook& look = {});
  /// Lines through the vortices, by their circulation; its unit m2/s.
  Picture& cores(const VortexOptions& look = {});
  Picture& mark(const Mark& mark);
  /// The plain vehicle, which else stands in every picture, is left away.
  Picture& without_vehicle();

  Picture& view(const View& view);
  Picture& view(const std::string& name);
  Picture& range(const std::string& quantity, double least, double most);
  Picture& size(int width, int height);
  Picture& dark(bool on = true);
  Picture& title(const std::string& text);
  /// What is seen; else the vehicle with what is round it.
  Picture& frame(const Box& box);

  /// What it has come to: scales of quantities without a range are fitted to what is shown.
  Scene scene() const;
  const std::vector<SmokeReport>& smoke_reports() const { return smoke_reports_; }
  const FlowView& flow() const { return *view_; }
  std::shared_ptr<const FlowView> shared_flow() const { return view_; }

 private:
  void add_vehicle_lines(const SurfaceLook& look, const std::vector<Sheet>& sheets);
  Box region_of(const SliceLook& look) const;
  void add_slice_lines(const SliceLook& look, const Sheet& sheet, double width);
  void add_outlines(const PlaneCut& cut, const Box& region);
  void add_arrows(const SliceLook& look, const Sheet& sheet, const std::vector<Vec3>& velocity,
                  const Box& region);
  void check_parts(const std::vector<std::string>& parts) const;

  std::shared_ptr<const FlowView> view_;
  Scene scene_;
  bool framed_ = false, vehicle_ = false, bare_ = false;
  std::optional<Plane> only_slice_;
  int things_ = 0;
  std::map<std::string, int> bands_;
  std::vector<SmokeReport> smoke_reports_;
};

/// Renders what the picture shows.
Image render(const Picture& picture);

/// The box that slices show unless told otherwise: round the vehicle, and its wake.
Box surroundings(const Record& record);

/// A grid of seeds ahead of the vehicle, as wide and high as it. @param count about so many
std::vector<Vec3> nose_rake(const Record& record, int count = 54);
std::vector<Vec3> line_of_seeds(const Vec3& from, const Vec3& to, int count);
std::vector<Vec3> circle_of_seeds(const Vec3& centre, const Vec3& normal, double radius, int count);
/// Round the middle of the strongest vortex. @throw InputError when there is none
std::vector<Vec3> seeds_round_vortex(const FlowView& view, int count);
/// Just ahead of where the flow comes to rest on the surface, round the stagnation points.
std::vector<Vec3> seeds_at_stagnation(const FlowView& view, int count);
/// Just above a part's surface, evenly spread. @throw InputError for an unknown part
std::vector<Vec3> seeds_on_part(const FlowView& view, const std::string& part, int count);

/// A value in a picture, and how much of the picture has it.
struct ShownValue {
  double value = 0, weight = 1;
};
void add_shown(const Sheet& sheet, std::vector<ShownValue>& values);
void add_shown(const Bundle& bundle, std::vector<ShownValue>& values);

/// A scale for a quantity: known ones have a fixed range, that of others, and of changes, is fitted
/// to the values.
ColourScale scale_for(const FlowView& view, const std::string& quantity,
                      std::vector<ShownValue> values);

}  // namespace dunefield

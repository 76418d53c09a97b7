// Scenes for a viewer in a browser: the same sheets and lines that pictures are drawn from, as one
// JSON text. Whole numbers of small steps, differences of neighbours, bytes of equal weight
// together, deflated (RFC 1950); what several scenes share is there once.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include <dunefield/look/scene.hpp>

namespace dunefield {

/// What scenes are put together under: a run, or a state of it.
struct PackedRun {
  std::string name;       ///< "tapered tail at 90 km/h"
  std::string variant;    ///< "tapered tail"
  std::string condition;  ///< "90 km/h"
  bool half = false;      ///< sheets come from the meshed side; the viewer mirrors them
};

class ScenePack {
 public:
  ScenePack();
  ~ScenePack();
  ScenePack(ScenePack&&) noexcept;
  ScenePack& operator=(ScenePack&&) noexcept;

  /// What is added from now on belongs to this run. Of half models what lies at y >= 0 is kept.
  void begin(const PackedRun& run);
  /// Sheets of one kind and name that differ in their values alone become one with several
  /// quantities.
  /// @param kind what the viewer lists it as: "vehicle", "slice", "smoke", "volume"
  void add(const Scene& scene, const std::string& kind);
  /// The runs of another pack behind these; what both have is there once.
  void append(ScenePack other);
  /// Something that the reader shall be told: what was left out.
  void note(const std::string& text);

  /// Bytes of the text so far, about.
  std::size_t size() const;
  /// Large sheets get a lighter self for those who draw slowly.
  std::string json();
  /// The same as bytes: the length of the JSON (4 bytes, little-endian), the JSON with "offset" and
  /// "length" in place of each array's data, the deflated arrays.
  /// @param lighter whether large sheets get a lighter self, which takes longer than all else
  std::string bytes(bool lighter = true);

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield

#include <dunefield/look/standard_pictures.hpp>

#include <dunefield/look/charts.hpp>
#include <dunefield/look/picture.hpp>
#include <dunefield/look/render.hpp>

namespace dunefield {

void draw_standard_pictures(const std::filesystem::path& folder, const Record& r) {
  const auto view = std::make_shared<FlowView>(r);
  save_png(folder / "pressure.png", render(Picture(view).surface()));
  save_png(folder / "speed.png", render(Picture(view).slice({})));
  draw_chart(folder / "history.png", history_chart({&r}));
  draw_chart(folder / "build-up.png", build_up_chart({&r}));
}

}  // namespace dunefield

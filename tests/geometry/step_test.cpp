// STEP files: parts with their names, places and units, curved faces as closely as asked for.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <dunefield/geometry/vehicle.hpp>
#include <tests/support/process.hpp>
#include <tests/support/refusal.hpp>

#ifdef DUNEFIELD_TESTS_WRITE_STEP
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_Printer.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#endif

namespace dunefield {
namespace {

using test::refusal;
using test::TemporaryFolder;
using test::write_text;

TEST(Step, FilesThatHoldNothingAreRefused) {
  const TemporaryFolder folder;
  write_text(folder / "cut.step", "ISO-10303-21;\nHEADER;\nFILE_DESCR");
  const std::string said = refusal(folder / "cut.step");
  EXPECT_NE(said.find(reads_step() ? "damaged or cut short" : "libocct"), std::string::npos)
      << said;
  EXPECT_TRUE(says_its_unit(folder / "cut.step"));
}

#ifdef DUNEFIELD_TESTS_WRITE_STEP
/// Named shapes, written in millimetres; each further use of one stands 400 mm behind the one
/// before.
void write_step(const std::filesystem::path& file,
                const std::vector<std::pair<std::string, TopoDS_Shape>>& shapes, int uses = 1) {
  Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_Printer));
  Handle(TDocStd_Document) document;
  XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", document);
  const auto tool = XCAFDoc_DocumentTool::ShapeTool(document->Main());
  const TDF_Label assembly = tool->NewShape();
  TDataStd_Name::Set(assembly, "car");
  for (const auto& [name, shape] : shapes) {
    const TDF_Label product = tool->AddShape(shape, false);
    TDataStd_Name::Set(product, TCollection_ExtendedString(name.c_str(), true));
    for (int i = 0; i < uses; ++i) {
      gp_Trsf behind;
      behind.SetTranslation({400.0 * i, 0, 0});
      tool->AddComponent(assembly, product, TopLoc_Location(behind));
    }
  }
  tool->UpdateAssemblies();
  STEPCAFControl_Writer writer;
  ASSERT_TRUE(writer.Transfer(document, STEPControl_AsIs));
  ASSERT_EQ(writer.Write(file.c_str()), IFSelect_RetDone);
  XCAFApp_Application::GetApplication()->Close(document);
}

TEST(Step, PartsKeepTheirNamesPlacesAndUnits) {
  const TemporaryFolder folder;
  write_step(folder / "car.step",
             {{"Karosse \u00fc", BRepPrimAPI_MakeBox(gp_Pnt(-100, -50, 20), 200, 100, 50).Shape()},
              {"wheel", BRepPrimAPI_MakeCylinder(30, 20).Shape()}},
             2);
  const Surface s = read_surface(folder / "car.step");
  EXPECT_EQ(s.part_names,
            (std::vector<std::string>{"Karosse \u00fc", "Karosse \u00fc 2", "wheel", "wheel 2"}));
  EXPECT_NEAR(bounds(s, 0).lo.x, -0.1, 1e-6) << "metres, whatever the file's unit";
  EXPECT_NEAR(bounds(s, 1).lo.x, 0.3, 1e-6);
  EXPECT_NEAR(bounds(s, 3).hi.x, 0.43, 1e-5);
  const double drum = std::numbers::pi * 0.03 * 0.03 * 0.02;
  EXPECT_NEAR(signed_volume(s), 2 * (0.2 * 0.1 * 0.05 + drum), 0.01 * drum) << "outward";
  EXPECT_EQ(count_edges(s, connected_pieces(s)).open, 0u) << "faces meet in the same points";
  // The same numbers in metres.
  std::string text = test::read_text(folder / "car.step");
  const std::string mm = "SI_UNIT(.MILLI.,.METRE.)";
  for (auto at = text.find(mm); at != std::string::npos; at = text.find(mm))
    text.replace(at, mm.size(), "SI_UNIT($,.METRE.)");
  write_text(folder / "large.step", text);
  EXPECT_NEAR(bounds(read_surface(folder / "large.step"), 0).lo.x, -100, 1e-4);
  // A unit of the campaign's is for files that have none.
  const Vehicle v = read_vehicle(folder / "car.step", {.unit = 0.001, .find_wheels = false});
  EXPECT_NEAR(bounds(v.surface).size().x, 0.6, 1e-4);
}

TEST(Step, CurvedFacesAreFollowedAsCloselyAsAskedFor) {
  const TemporaryFolder folder;
  write_step(folder / "drum.step", {{"drum", BRepPrimAPI_MakeCylinder(500, 1000).Shape()}});
  for (const double chord : {1e-3, 1e-5}) {
    const Surface s = read_surface(folder / "drum.step", {.chord = chord, .angle = 1});
    double farthest = 0;
    for (std::size_t t = 0; t < s.size(); ++t)
      for (int k = 0; k < 3; ++k) {
        const Vec3 middle = 0.5 * (s.corner(t, k) + s.corner(t, (k + 1) % 3));
        if (std::abs(s.corner(t, k).z - s.corner(t, (k + 1) % 3).z) < 1e-9 &&
            std::abs(unit(s.area_vector(t)).z) < 0.5)
          farthest = std::max(farthest, 0.5 - std::hypot(middle.x, middle.y));
      }
    EXPECT_LT(farthest, 1.05 * chord);
    EXPECT_GT(farthest, 0.1 * chord);
  }
}

TEST(Step, CurvesAloneAreRefused) {
  const TemporaryFolder folder;
  write_step(folder / "line.step",
             {{"line", BRepBuilderAPI_MakeEdge(gp_Pnt(0, 0, 0), gp_Pnt(1, 0, 0)).Shape()}});
  EXPECT_NE(refusal(folder / "line.step").find("no solids"), std::string::npos)
      << refusal(folder / "line.step");
}
#endif

}  // namespace
}  // namespace dunefield

#include <dunefield/geometry/files/step.hpp>

#include <map>

#include <BRepBndLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_Printer.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <Standard_Failure.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Face.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/surface_builder.hpp>

namespace dunefield {
namespace {

constexpr double metres = 1e-3;  // of OpenCASCADE's own unit, into which it turns a file's

struct Part {
  std::string name;
  TopoDS_Shape shape;  ///< placed
};

std::string name_of(const TDF_Label& label) {
  Handle(TDataStd_Name) name;
  if (!label.FindAttribute(TDataStd_Name::GetID(), name)) return "";
  return TCollection_AsciiString(name->Get()).ToCString();  // UTF-8
}

/// A product's own name, or that of its place in the assembly where it has none.
std::string name_of_part(const TDF_Label& place, const TDF_Label& product) {
  const std::string own = name_of(product);
  return own.empty() ? name_of(place) : own;
}

/// The parts below a label, placed.
void collect(const TDF_Label& label, const TopLoc_Location& at, std::vector<Part>& parts) {
  TDF_Label product = label;
  if (XCAFDoc_ShapeTool::IsReference(label)) XCAFDoc_ShapeTool::GetReferredShape(label, product);
  const TopLoc_Location here = at * XCAFDoc_ShapeTool::GetLocation(label);
  if (XCAFDoc_ShapeTool::IsAssembly(product)) {
    TDF_LabelSequence places;
    XCAFDoc_ShapeTool::GetComponents(product, places);
    for (const TDF_Label& place : places) collect(place, here, parts);
    return;
  }
  const TopoDS_Shape shape = XCAFDoc_ShapeTool::GetShape(product);
  if (!shape.IsNull()) parts.push_back({name_of_part(label, product), shape.Located(here)});
}

/// A further part of the same name gets a number.
void tell_apart(std::vector<Part>& parts) {
  std::map<std::string, int> used;
  for (Part& p : parts)
    if (const int n = ++used[p.name]; n > 1) p.name += " " + std::to_string(n);
}

void add_face(const TopoDS_Face& face, SurfaceBuilder& builder) {
  TopLoc_Location location;
  const Handle(Poly_Triangulation) facets = BRep_Tool::Triangulation(face, location);
  if (facets.IsNull()) return;
  const gp_Trsf place = location.Transformation();
  std::vector<Vec3> corners;
  corners.reserve(3 * static_cast<std::size_t>(facets->NbTriangles()));
  for (int t = 1; t <= facets->NbTriangles(); ++t) {
    int n[3];
    facets->Triangle(t).Get(n[0], n[1], n[2]);
    if (face.Orientation() == TopAbs_REVERSED) std::swap(n[0], n[1]);
    for (const int i : n) {
      const gp_Pnt p = facets->Node(i).Transformed(place);
      // Rounded to a tenth of a micrometre: faces meet in the same points but for the last digits.
      const auto rounded = [](double mm) { return std::round(mm * 1e4) * 1e-4 * metres; };
      corners.push_back({rounded(p.X()), rounded(p.Y()), rounded(p.Z())});
    }
  }
  builder.add_triangles(corners.data(), corners.size() / 3);
}

double longest_side(const std::vector<Part>& parts) {
  Bnd_Box box;
  for (const Part& p : parts) BRepBndLib::Add(p.shape, box, false);
  if (box.IsVoid()) return 0;
  double x0, y0, z0, x1, y1, z1;
  box.Get(x0, y0, z0, x1, y1, z1);
  return std::max({x1 - x0, y1 - y0, z1 - z0});
}

std::vector<Part> read_parts(const std::filesystem::path& file) {
  Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_Printer));
  STEPCAFControl_Reader reader;
  reader.SetNameMode(true), reader.SetColorMode(false), reader.SetLayerMode(false);
  Interface_Static::SetCVal("xstep.cascade.unit", "MM");
  const auto damaged = [&](const char* what) {
    return InputError(what, file.string(), "export it again, as STEP AP203, AP214 or AP242");
  };
  if (reader.ReadFile(file.c_str()) != IFSelect_RetDone)
    throw damaged("is no STEP file that can be read: it is damaged or cut short");
  Handle(TDocStd_Document) document;
  XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", document);
  if (!reader.Transfer(document)) throw damaged("holds no shapes that can be read");
  TDF_LabelSequence roots;
  XCAFDoc_DocumentTool::ShapeTool(document->Main())->GetFreeShapes(roots);
  std::vector<Part> parts;
  for (const TDF_Label& root : roots) collect(root, {}, parts);
  XCAFApp_Application::GetApplication()->Close(document);
  std::erase_if(parts, [](const Part& p) { return !TopExp_Explorer(p.shape, TopAbs_FACE).More(); });
  if (parts.empty())
    throw InputError("holds no solids and no faces", file.string(),
                     "export the vehicle's solids or surfaces, not curves or points alone");
  tell_apart(parts);
  return parts;
}

}  // namespace

bool reads_step() { return true; }

Surface read_step(const std::filesystem::path& file, const CurveTolerance& tolerance) try {
  const std::vector<Part> parts = read_parts(file);
  const double chord = tolerance.chord * longest_side(parts);
  SurfaceBuilder builder(file);
  for (const Part& p : parts) {
    const BRepMesh_IncrementalMesh cut_into_facets(p.shape, chord, false, tolerance.angle, true);
    builder.use_part(p.name);
    for (TopExp_Explorer e(p.shape, TopAbs_FACE); e.More(); e.Next())
      add_face(TopoDS::Face(e.Current()), builder);
  }
  return builder.finish();
} catch (const Standard_Failure& e) {
  throw InputError(std::string("cannot be read as STEP (") + e.GetMessageString() + ")",
                   file.string(), "export it again, or as STL");
}

}  // namespace dunefield

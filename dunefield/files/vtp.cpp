#include <dunefield/files/vtp.hpp>

#include <cstdint>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>

namespace dunefield {
void write_vtp(const std::filesystem::path& file, const VolumeMesh& m,
               const std::vector<NamedField>& boundary_fields) {
  std::vector<int> number(m.points.size(), -1);
  std::vector<Vec3> points;
  std::vector<std::int64_t> connectivity, offsets;
  std::vector<std::int32_t> part;
  std::vector<std::size_t> shown;  // of the boundary faces
  int part_number = 0;
  for (const Boundary& boundary : m.boundaries) {
    if (boundary.kind != BoundaryKind::part) continue;
    for (int f = boundary.first; f < boundary.first + boundary.count; ++f) {
      for (int k = m.face_start[at(f) + 1] - 1; k >= m.face_start[at(f)]; --k) {  // turned outward
        int& n = number[at(m.face_points[at(k)])];
        if (n < 0)
          n = static_cast<int>(points.size()), points.push_back(m.points[at(m.face_points[at(k)])]);
        connectivity.push_back(n);
      }
      offsets.push_back(static_cast<std::int64_t>(connectivity.size()));
      part.push_back(part_number);
      shown.push_back(at(f - m.interior_faces()));
    }
    ++part_number;
  }
  VtkWriter data(file);
  std::string xml =
      fmt::format("<PolyData>\n<Piece NumberOfPoints=\"{}\" NumberOfPolys=\"{}\">\n<Points>\n",
                  points.size(), offsets.size());
  xml += data.add("points", 3, coordinates(points)) + "</Points>\n<Polys>\n";
  xml += data.add("connectivity", 1, connectivity) + data.add("offsets", 1, offsets) +
         "</Polys>\n<CellData>\n";
  xml += data.add("part", 1, part);
  for (const NamedField& f : boundary_fields) {
    std::vector<double> scalar;
    std::vector<Vec3> vector;
    for (const std::size_t b : shown)
      f.vector.empty() ? scalar.push_back(f.scalar[b]) : vector.push_back(f.vector[b]);
    xml += data.add(NamedField{f.name, scalar, vector});
  }
  xml += "</CellData>\n</Piece>\n</PolyData>\n";
  data.finish("PolyData", xml);
}

}  // namespace dunefield

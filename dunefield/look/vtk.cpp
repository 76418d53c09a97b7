#include <dunefield/look/vtk.hpp>

#include <cstdint>
#include <fstream>

#include <fmt/format.h>
#include <zlib.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

/// Collects arrays behind the XML header: each compressed in blocks, as the format's appended raw section asks.
class Appended {
 public:
  template <class T>
  std::string add(const std::string& name, const char* type, int components, const std::vector<T>& values) {
    const std::string tag = fmt::format(R"(<DataArray type="{}" Name="{}" NumberOfComponents="{}" format="appended" offset="{}"/>)", type, escaped(name),
                                        components, data_.size()) + "\n";
    append(reinterpret_cast<const unsigned char*>(values.data()), values.size() * sizeof(T));
    return tag;
  }
  std::string fields(const std::vector<NamedField>& fields) {
    std::string xml;
    for (const NamedField& f : fields) {
      std::vector<float> values;
      for (const double v : f.scalar) values.push_back(static_cast<float>(v));
      for (const Vec3& v : f.vector)
        for (int i = 0; i < 3; ++i) values.push_back(static_cast<float>(v[i]));
      xml += add(f.name, "Float32", f.vector.empty() ? 1 : 3, values);
    }
    return xml;
  }
  void write(const std::filesystem::path& file, const char* type, const std::string& body) const {
    std::ofstream out(file, std::ios::binary);
    if (!out) throw OutputError("cannot be written", file.string(), "check the folder and its permissions");
    out << fmt::format(R"(<?xml version="1.0"?>
<VTKFile type="{}" version="1.0" byte_order="LittleEndian" header_type="UInt64" compressor="vtkZLibDataCompressor">
)", type) << body << "<AppendedData encoding=\"raw\">\n_";
    out.write(data_.data(), static_cast<std::streamsize>(data_.size()));
    out << "\n</AppendedData>\n</VTKFile>\n";
    out.close();
    if (!out) throw OutputError("could not be written to its end", file.string(), "check the free space");
  }
  static std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text) {
      if (c == '<') out += "&lt;";
      else if (c == '>') out += "&gt;";
      else if (c == '&') out += "&amp;";
      else if (c == '"') out += "&quot;";
      else out += c;
    }
    return out;
  }

 private:
  void append(const unsigned char* bytes, std::size_t size) {
    constexpr std::size_t block = 1 << 20;
    const std::size_t blocks = (size + block - 1) / block;
    std::vector<std::uint64_t> head = {blocks, block, size % block};
    std::string packed;
    for (std::size_t b = 0; b < blocks; ++b) {
      const std::size_t length = std::min(block, size - b * block);
      uLongf bound = compressBound(static_cast<uLong>(length));
      std::string out(bound, '\0');
      compress2(reinterpret_cast<Bytef*>(out.data()), &bound, bytes + b * block, static_cast<uLong>(length), 1);
      head.push_back(bound);
      packed.append(out, 0, bound);
    }
    data_.append(reinterpret_cast<const char*>(head.data()), head.size() * sizeof(head[0]));
    data_ += packed;
  }
  std::string data_;
};

std::vector<float> coordinates(const std::vector<Vec3>& points) {
  std::vector<float> out;
  out.reserve(3 * points.size());
  for (const Vec3& p : points)
    for (int i = 0; i < 3; ++i) out.push_back(static_cast<float>(p[i]));
  return out;
}

}  // namespace

void write_vtu(const std::filesystem::path& file, const VolumeMesh& m, const std::vector<NamedField>& cell_fields) {
  const CellFaces rows = faces_of_cells(m);
  std::vector<std::int64_t> connectivity, offsets, faces, face_offsets;
  std::vector<int> corners;
  for (int c = 0; c < m.cells; ++c) {
    corners.clear();
    faces.push_back(rows.start[at(c) + 1] - rows.start[at(c)]);
    for (int r = rows.start[at(c)]; r < rows.start[at(c) + 1]; ++r) {
      const int f = rows.face[at(r)], first = m.face_start[at(f)], last = m.face_start[at(f) + 1];
      faces.push_back(last - first);
      for (int k = first; k < last; ++k) {
        // Outward for each of the two cells.
        const int p = m.cell_below[at(f)] == c ? m.face_points[at(k)] : m.face_points[at(first + last - 1 - k)];
        faces.push_back(p);
        corners.push_back(p);
      }
    }
    std::sort(corners.begin(), corners.end());
    corners.erase(std::unique(corners.begin(), corners.end()), corners.end());
    connectivity.insert(connectivity.end(), corners.begin(), corners.end());
    offsets.push_back(static_cast<std::int64_t>(connectivity.size()));
    face_offsets.push_back(static_cast<std::int64_t>(faces.size()));
  }
  const std::vector<std::uint8_t> types(at(m.cells), 42);
  Appended data;
  std::string xml = fmt::format("<UnstructuredGrid>\n<Piece NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n<Points>\n", m.points.size(), m.cells);
  xml += data.add("points", "Float32", 3, coordinates(m.points)) + "</Points>\n<Cells>\n";
  xml += data.add("connectivity", "Int64", 1, connectivity) + data.add("offsets", "Int64", 1, offsets) + data.add("types", "UInt8", 1, types);
  xml += data.add("faces", "Int64", 1, faces) + data.add("faceoffsets", "Int64", 1, face_offsets) + "</Cells>\n<CellData>\n";
  xml += data.fields(cell_fields) + "</CellData>\n</Piece>\n</UnstructuredGrid>\n";
  data.write(file, "UnstructuredGrid", xml);
}

void write_vtp(const std::filesystem::path& file, const VolumeMesh& m, const std::vector<NamedField>& boundary_fields) {
  std::vector<int> number(m.points.size(), -1);
  std::vector<Vec3> points;
  std::vector<std::int64_t> connectivity, offsets;
  std::vector<std::int32_t> part;
  std::vector<NamedField> fields;
  for (const NamedField& f : boundary_fields) fields.push_back({f.name, {}, {}});
  int part_number = 0;
  for (const Patch& patch : m.patches) {
    if (patch.kind != PatchKind::part) continue;
    for (int f = patch.first; f < patch.first + patch.count; ++f) {
      for (int k = m.face_start[at(f) + 1] - 1; k >= m.face_start[at(f)]; --k) {  // turned outward
        int& n = number[at(m.face_points[at(k)])];
        if (n < 0) n = static_cast<int>(points.size()), points.push_back(m.points[at(m.face_points[at(k)])]);
        connectivity.push_back(n);
      }
      offsets.push_back(static_cast<std::int64_t>(connectivity.size()));
      part.push_back(part_number);
      for (std::size_t i = 0; i < fields.size(); ++i) {
        const auto b = at(f - m.interior_faces());
        if (boundary_fields[i].vector.empty()) fields[i].scalar.push_back(boundary_fields[i].scalar[b]);
        else fields[i].vector.push_back(boundary_fields[i].vector[b]);
      }
    }
    ++part_number;
  }
  Appended data;
  std::string xml = fmt::format("<PolyData>\n<Piece NumberOfPoints=\"{}\" NumberOfPolys=\"{}\">\n<Points>\n", points.size(), offsets.size());
  xml += data.add("points", "Float32", 3, coordinates(points)) + "</Points>\n<Polys>\n";
  xml += data.add("connectivity", "Int64", 1, connectivity) + data.add("offsets", "Int64", 1, offsets) + "</Polys>\n<CellData>\n";
  xml += data.add("part", "Int32", 1, part) + data.fields(fields) + "</CellData>\n</Piece>\n</PolyData>\n";
  data.write(file, "PolyData", xml);
}

}  // namespace dunefield

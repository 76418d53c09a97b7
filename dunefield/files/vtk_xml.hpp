// VTK XML files: named arrays in an XML tree. Written compressed, behind the tree; read in every
// form of the format.
#pragma once

#include <cstdint>
#include <filesystem>
#include <fstream>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// A named field: one number or one vector for each cell (or face), the other left empty. It refers
/// to arrays that others keep.
struct NamedField {
  std::string name;  ///< with its unit
  std::span<const double> scalar;
  std::span<const Vec3> vector;
};

/// Three numbers a point.
std::vector<float> coordinates(std::span<const Vec3> points);
std::vector<double> exact_coordinates(std::span<const Vec3> points);

/// Writes arrays behind the tree that names them. They come before the tree is known, so that they
/// go, compressed in blocks, into a file beside it first: none needs to stay in memory.
class VtkWriter {
 public:
  /// @throw OutputError
  explicit VtkWriter(const std::filesystem::path& file);
  ~VtkWriter();
  VtkWriter(const VtkWriter&) = delete;
  VtkWriter& operator=(const VtkWriter&) = delete;
  /// The element that stands for an array in the tree. T: float, double, std::uint8_t, std::int32_t
  /// or std::int64_t.
  template <class T>
  std::string add(const std::string& name, int components, const std::vector<T>& values);
  std::string add(const NamedField& field);
  /// @param type of the data set, `UnstructuredGrid` or `PolyData`
  /// @param body the tree below the root. @throw OutputError
  void finish(const char* type, const std::string& body);

 private:
  std::string append(const char* type, const std::string& name, int components, std::size_t count,
                     const unsigned char* bytes, std::size_t size);
  std::filesystem::path file_, beside_;
  std::fstream data_;
};

/// An array as it was read: integers or real numbers, the other vector left empty.
struct VtkArray {
  std::string name;
  int components = 1;
  std::vector<std::int64_t> integers;
  std::vector<double> reals;
};

/// A file read whole. Arrays are found by the name of the element that holds them ("Points",
/// "Cells", "FieldData").
class VtkReader {
 public:
  /// @throw InputError for what is no VTK XML file of that type, has several pieces, or is packed
  /// by anything but zlib
  VtkReader(const std::filesystem::path& file, const char* type);
  ~VtkReader();
  /// Of the piece: an attribute such as "NumberOfCells".
  std::int64_t number(const char* attribute) const;
  /// All arrays in the element. @throw InputError where one is cut off or damaged
  std::vector<VtkArray> arrays(const char* holder) const;
  [[noreturn]] void refuse(const std::string& what, const std::string& advice) const;

 private:
  struct Content;
  std::unique_ptr<Content> content_;
};

}  // namespace dunefield

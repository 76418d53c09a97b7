#include <dunefield/geometry/files/scene.hpp>

#include <map>
#include <string_view>

#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <assimp/Importer.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/files/surface_builder.hpp>
#include <dunefield/geometry/files/threemf_model.hpp>

namespace dunefield {
namespace {

class SceneReader {
 public:
  /// @param model that of a 3MF file; glTF is in metres and its nodes have their own names
  SceneReader(const aiScene& scene, const std::filesystem::path& file, ThreemfModel model)
      : scene_(scene), model_(std::move(model)), builder_(file) {}

  Surface run() {
    add(*scene_.mRootNode, {});
    return builder_.finish();
  }

 private:
  void add(const aiNode& node, const aiMatrix4x4& above) {
    const aiMatrix4x4 place = above * node.mTransformation;
    if (node.mNumMeshes > 0) builder_.use_part(part_name(node));
    for (unsigned i = 0; i < node.mNumMeshes; ++i) add(*scene_.mMeshes[node.mMeshes[i]], place);
    for (unsigned i = 0; i < node.mNumChildren; ++i) add(*node.mChildren[i], place);
  }

  void add(const aiMesh& mesh, const aiMatrix4x4& place) {
    // A place that mirrors turns the facets' outer side.
    const bool mirrors = place.Determinant() < 0;
    std::vector<Vec3> corners;
    corners.reserve(3 * std::size_t{mesh.mNumFaces});
    for (unsigned f = 0; f < mesh.mNumFaces; ++f) {
      const aiFace& face = mesh.mFaces[f];
      if (face.mNumIndices != 3) continue;  // points and lines
      for (const unsigned k : {0U, mirrors ? 2U : 1U, mirrors ? 1U : 2U}) {
        const aiVector3D p = place * mesh.mVertices[face.mIndices[k]];
        corners.push_back(Vec3{p.x, p.y, p.z} * model_.unit);
      }
    }
    builder_.add_triangles(corners.data(), corners.size() / 3);
  }

  std::string part_name(const aiNode& node) {
    std::string name = node.mName.C_Str();
    if (name.empty()) name = scene_.mMeshes[node.mMeshes[0]]->mName.C_Str();
    if (name.starts_with(object_prefix))
      if (const auto own = model_.names.find(name.substr(object_prefix.size()));
          own != model_.names.end())
        name = own->second;
    const int n = ++used_[name];
    return n > 1 ? name + " " + std::to_string(n) : name;
  }

  /// What Assimp calls a 3MF file's objects by their number, whatever their own name.
  static constexpr std::string_view object_prefix = "Object_";

  const aiScene& scene_;
  const ThreemfModel model_;
  SurfaceBuilder builder_;
  std::map<std::string, int> used_;
};

}  // namespace

bool reads_scenes() { return true; }

Surface read_scene(const std::filesystem::path& file, bool is_3mf) {
  Assimp::Importer importer;
  const aiScene* scene = importer.ReadFile(file.string(), aiProcess_Triangulate);
  const char* const again = "export it again, or as STL";
  if (!scene || !scene->mRootNode)
    throw InputError(std::string("cannot be read: ") + importer.GetErrorString(), file.string(),
                     again);
  if (scene->mNumMeshes == 0) throw InputError("holds no surfaces", file.string(), again);
  ThreemfModel model{1, {}};
  if (is_3mf) model = read_3mf_model(file);
  return SceneReader(*scene, file, std::move(model)).run();
}

}  // namespace dunefield

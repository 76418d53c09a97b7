// Tries that were kept: copies of their shapes, and what the campaign file would say of them.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/report/watch_board.hpp>

namespace dunefield {

/// Copies the try's surface files below a folder, so that it can be gone back to when they have
/// changed. @throw OutputError
void keep_copies(Try& one, const std::filesystem::path& folder);

/// Lines for the campaign file (TOML): each kept try as a combination of settings, or, where its
/// added surface files are not what the first try had, as a variant with the copies; changed files
/// of the vehicle itself are told in a remark.
std::string kept_as_variants(const std::vector<std::shared_ptr<Try>>& tries);

}  // namespace dunefield

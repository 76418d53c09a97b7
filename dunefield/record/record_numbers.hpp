// The numbers of a record as JSON: all but its history, mesh and fields.
#pragma once

#include <filesystem>
#include <string>

#include <dunefield/record/json.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

Json record_json(const Record& record);

/// Those of a folder, once they are known to be a record's that we can read. @throw InputError
Json numbers_of(const std::filesystem::path& folder);

/// @param where the file, for messages
/// @throw Json::exception for what is missing or of the wrong kind, InputError for an unknown word
Record record_from(const Json& numbers, const std::string& where);

}  // namespace dunefield

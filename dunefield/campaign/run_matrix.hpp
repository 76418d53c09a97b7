// What the runs of a campaign differ in besides variant and speed: any numeric key of its file.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/table.hpp>
#include <dunefield/record/setting.hpp>

namespace dunefield {

/// The settings of [runs]: every combination of the lists in `yaw` and [runs.sweep], or those that
/// [[runs.combination]] lists. One without keys when nothing is swept.
/// @throw InputError for an empty list, a value that is no number, and both at once
std::vector<Settings> read_settings(Table& runs);

/// @throw InputError for a key that runs cannot differ in
void check_setting_key(Table& t, const std::string& key);
/// A value as the file has it: text with a unit, or a plain number. @throw InputError
std::string value_of(Table& t, const toml::node& node, const char* key);
/// "10 mm" as 10 and "mm".
std::pair<double, std::string> number_and_unit(const std::string& text);

/// Gives a key of a campaign file its value: "ride.front", "variant.flat flap.change.1.turn". Of a
/// list of tables one is named by its name, or by its number from 1.
/// @throw InputError when the file has no such table
void set_key(toml::table& root, const Setting& setting, const std::string& file);

/// Whether a setting moves or changes the vehicle itself.
bool changes_the_vehicle(const Settings& settings);

}  // namespace dunefield

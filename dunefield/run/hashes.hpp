// What a run's results depend on, written down and hashed.
#pragma once

#include <string>

#include <dunefield/record/record.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// The three hashes: that of the mesh counts the content of geometry and mesh files, tunnel, recipe
/// and the mesher's version; that of the flow counts the mesh, conditions, models and the solver's
/// version; that of the readings counts what is read and drawn. Limits (iterations, accuracy) count
/// in none: with others a run goes on.
RunHashes hashes_of(const RunSetup& setup);

/// Everything that decides the result, as JSON text.
std::string setup_json(const RunSetup& setup);
/// The limits alone: a run with other ones is judged again, and goes on if need be.
std::string limits_json(const RunSetup& setup);

}  // namespace dunefield

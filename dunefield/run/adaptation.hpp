// Cells where the flow needs them: the sizes of a mesh from the errors of a flow that is known.
#pragma once

#include <memory>

#include <dunefield/mesh/octree/size_field.hpp>
#include <dunefield/record/record.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// Where a flow's mesh is too coarse for the vehicle's forces: the sizes that make the sum of
/// errors least. The error of a cell is the jump between what it and its neighbours say of velocity
/// and pressure at the face between them, both being carried there by their gradients, weighted by
/// the cell's distance from the vehicle. It falls with the square of the size h, so that for a
/// given number of cells the sum over the volume is least where h^5 goes with h^2 over the jump.
/// @return for each cell of the record's mesh a size, up to a common factor
std::vector<SizeField::Wish> sizes_by_error(const Record& record);

/// The size field for a mesh of as many cells as the recipe gives without adaptation.
/// @param setup with `adaptation`; @param sketch the record of its sketch
/// @throw FlowError where the sketch's flow cannot be relied on, Cancelled
std::shared_ptr<const SizeField> adapted_sizes(const RunSetup& setup, const Record& sketch,
                                               const Progress& progress = {});

/// Runs the sketch that a set-up's sizes are taken from.
/// @param setup with `adaptation`. @throw as `build_mesh` and `run`
Record run_sketch(const RunSetup& setup, int threads, const Progress& progress = {});

}  // namespace dunefield

// What may be asked of the memory allocator.
#pragma once

namespace dunefield {

/// From now on large arrays that are freed stay with the process for the next ones, instead of being given back and cleared again
/// by the operating system. Meshing is a quarter faster with it. Does nothing where the C library has no such setting. For programs: the library
/// does not set it.
void keep_freed_memory();

/// Gives what is free at this moment back to the operating system, so that a large array that needs other room does not add to it.
void give_back_freed_memory();

}  // namespace dunefield

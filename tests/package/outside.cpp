#include <dunefield/dunefield.hpp>

int main() { return dunefield::sphere("ball", {0, 0, 0}, 1, 16).size() > 0 ? 0 : 1; }

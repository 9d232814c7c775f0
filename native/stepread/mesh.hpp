#pragma once

#include <TopoDS_Shape.hxx>

#include <cstdint>
#include <functional>
#include <ostream>
#include <vector>

class TopoDS_Face;

// A run of triangles with one colour; slot 0 takes the part's own.
struct Patch {
  int slot;
  std::uint32_t first, count;
};

// Mesh is the surface of one shape as triangles, mm.
struct Mesh {
  std::vector<float> positions, normals;
  std::vector<std::uint32_t> triangles;
  std::vector<Patch> patches;
  double volume = 0;  // exact, from the surfaces themselves, mm³
  double area = 0;    // mm²
  int solids = 0, faces = 0, unmeshed = 0;

  // slotOf gives each face its colour slot.
  static Mesh of(const TopoDS_Shape& shape, double tolerance, double angle, const std::function<int(const TopoDS_Face&)>& slotOf);
  void write(std::ostream& out) const;

 private:
  void add(const TopoDS_Face& face);
};

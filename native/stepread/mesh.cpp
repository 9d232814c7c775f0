#include "mesh.hpp"

#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepGProp.hxx>
#include <BRepLProp_SLProps.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <IMeshTools_Parameters.hxx>
#include <Poly_Triangulation.hxx>
#include <Precision.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>

#include <algorithm>
#include <cmath>
#include <map>

namespace {

// coarsest bounds the distance between facet and surface, so that large parts
// keep round holes, mm.
constexpr double coarsest = 0.5;

double diagonal(const TopoDS_Shape& shape) {
  Bnd_Box box;
  BRepBndLib::Add(shape, box, false);
  return box.IsVoid() ? 0 : std::sqrt(box.SquareExtent());
}

}  // namespace

Mesh Mesh::of(const TopoDS_Shape& shape, double tolerance, double angle, const std::function<int(const TopoDS_Face&)>& slotOf) {
  Mesh m;
  IMeshTools_Parameters how;
  how.Deflection = std::clamp(diagonal(shape) * tolerance, 1e-4, coarsest);
  how.Angle = angle;
  how.InParallel = true;
  BRepMesh_IncrementalMesh mesher(shape, how);
  std::map<int, std::vector<TopoDS_Face>> slots;
  for (TopExp_Explorer f(shape, TopAbs_FACE); f.More(); f.Next()) {
    const TopoDS_Face face = TopoDS::Face(f.Current());
    slots[slotOf(face)].push_back(face);
    m.faces++;
  }
  for (const auto& [slot, faces] : slots) {
    const auto first = std::uint32_t(m.triangles.size() / 3);
    for (const TopoDS_Face& face : faces) m.add(face);
    m.patches.push_back({slot, first, std::uint32_t(m.triangles.size() / 3) - first});
  }
  for (TopExp_Explorer s(shape, TopAbs_SOLID); s.More(); s.Next()) m.solids++;
  GProp_GProps volume, area;
  BRepGProp::VolumeProperties(shape, volume);
  BRepGProp::SurfaceProperties(shape, area);
  m.volume = volume.Mass();
  m.area = area.Mass();
  return m;
}

void Mesh::add(const TopoDS_Face& face) {
  TopLoc_Location place;
  const Handle(Poly_Triangulation) t = BRep_Tool::Triangulation(face, place);
  if (t.IsNull()) {
    unmeshed++;
    return;
  }
  const bool reversed = face.Orientation() == TopAbs_REVERSED;
  const gp_Trsf& move = place.Transformation();
  const BRepAdaptor_Surface surface(face, false);
  BRepLProp_SLProps props(surface, 1, Precision::Confusion());
  const auto base = std::uint32_t(positions.size() / 3);
  for (int i = 1; i <= t->NbNodes(); i++) {
    const gp_Pnt p = t->Node(i).Transformed(move);
    gp_Vec n(0, 0, 0);  // an undefined normal is made by the reader
    if (t->HasUVNodes()) {
      const gp_Pnt2d uv = t->UVNode(i);
      props.SetParameters(uv.X(), uv.Y());
      if (props.IsNormalDefined()) n = gp_Vec(props.Normal()) * (reversed ? -1 : 1);
    }
    for (double v : {p.X(), p.Y(), p.Z()}) positions.push_back(float(v));
    for (double v : {n.X(), n.Y(), n.Z()}) normals.push_back(float(v));
  }
  for (int i = 1; i <= t->NbTriangles(); i++) {
    int a, b, c;
    t->Triangle(i).Get(a, b, c);
    if (reversed) std::swap(b, c);
    for (int v : {a, b, c}) triangles.push_back(base + std::uint32_t(v) - 1);
  }
}

void Mesh::write(std::ostream& out) const {
  const auto put = [&](const auto& array) { out.write(reinterpret_cast<const char*>(array.data()), std::streamsize(array.size() * sizeof(array[0]))); };
  put(positions);
  put(normals);
  put(triangles);
}

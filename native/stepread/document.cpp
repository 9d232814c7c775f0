#include "document.hpp"
#include "progress.hpp"

#include <IGESCAFControl_Reader.hxx>
#include <IGESData_GlobalSection.hxx>
#include <IGESData_IGESModel.hxx>
#include <Interface_Static.hxx>
#include <Quantity_ColorRGBA.hxx>
#include <STEPCAFControl_ExternFile.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <TColStd_SequenceOfAsciiString.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDF_Tool.hxx>
#include <TDataStd_Name.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_DocumentTool.hxx>

#include <stdexcept>

namespace {

constexpr int deepest = 64;         // levels
constexpr std::size_t most = 50000;  // nodes

std::string nameOf(const TDF_Label& label) {
  Handle(TDataStd_Name) name;
  if (!label.FindAttribute(TDataStd_Name::GetID(), name)) return "";
  const TCollection_ExtendedString& wide = name->Get();
  std::string text(std::size_t(wide.LengthOfCString()), '\0');
  Standard_PCharacter to = text.data();
  wide.ToUTF8CString(to);
  return text;
}

std::string entryOf(const TDF_Label& label) {
  TCollection_AsciiString entry;
  TDF_Tool::Entry(label, entry);
  return entry.ToCString();
}

double millimetresIn(const std::string& unit) {
  static const std::map<std::string, double> known = {
      {"millimetre", 1},  {"milimetre", 1},   {"metre", 1000},  {"centimetre", 10}, {"micrometre", 0.001},
      {"inch", 25.4},     {"INCH", 25.4},     {"foot", 304.8},  {"FOOT", 304.8},    {"mil", 0.0254},
      {"kilometre", 1e6}, {"mile", 1609344.0}};
  const auto found = known.find(unit);
  return found == known.end() ? 0 : found->second;
}

}  // namespace

Document::Document(const std::string& kind, const std::string& file) {
  XCAFApp_Application::GetApplication()->NewDocument("BinXCAF", doc_);
  shapes_ = XCAFDoc_DocumentTool::ShapeTool(doc_->Main());
  paint_ = XCAFDoc_DocumentTool::ColorTool(doc_->Main());
  Interface_Static::SetCVal("xstep.cascade.unit", "MM");
  if (kind == "step") readStep(file);
  else if (kind == "iges") readIges(file);
  else throw std::runtime_error("the kind of file is neither step nor iges");
  TDF_LabelSequence roots;
  shapes_->GetFreeShapes(roots);
  if (roots.IsEmpty()) throw std::runtime_error("the file holds no shape");
  for (const TDF_Label& root : roots) walk(root, -1, 0, -1);
}

void Document::readStep(const std::string& file) {
  STEPCAFControl_Reader reader;
  reader.SetColorMode(true);
  reader.SetNameMode(true);
  reader.SetLayerMode(false);
  reader.SetSHUOMode(true);
  Progress progress("reading");
  if (reader.ReadFile(file.c_str()) != IFSelect_RetDone) throw std::runtime_error("the file is not readable as STEP (ISO 10303-21)");
  TColStd_SequenceOfAsciiString lengths, angles, solids;
  reader.ChangeReader().FileUnits(lengths, angles, solids);
  if (!lengths.IsEmpty()) {
    unit_ = lengths.First().ToCString();
    millimetres_ = millimetresIn(unit_);
  }
  if (!reader.Transfer(doc_, progress.Start())) throw std::runtime_error("the file's shapes could not be understood");
  for (NCollection_DataMap<TCollection_AsciiString, Handle(STEPCAFControl_ExternFile)>::Iterator i(reader.ExternFiles()); i.More(); i.Next())
    if (i.Value()->GetLoadStatus() != IFSelect_RetDone)
      messages_.push_back(std::string("the external file ") + i.Key().ToCString() + " could not be read");
}

void Document::readIges(const std::string& file) {
  IGESCAFControl_Reader reader;
  reader.SetColorMode(true);
  reader.SetNameMode(true);
  Progress progress("reading");
  if (reader.ReadFile(file.c_str()) != IFSelect_RetDone) throw std::runtime_error("the file is not readable as IGES");
  const IGESData_GlobalSection& global = reader.IGESModel()->GlobalSection();
  millimetres_ = global.UnitValue();
  if (!global.UnitName().IsNull()) unit_ = global.UnitName()->ToCString();
  schema_ = "IGES " + std::to_string(global.IGESVersion());
  if (!reader.Transfer(doc_, progress.Start())) throw std::runtime_error("the file's shapes could not be understood");
}

void Document::walk(const TDF_Label& label, int parent, int depth, int inherited) {
  if (depth > deepest) throw std::runtime_error("the assembly is more than 64 levels deep");
  if (nodes_.size() >= most) throw std::runtime_error("the assembly has more than 50000 nodes");
  Node node;
  node.parent = parent;
  node.name = nameOf(label);
  node.place = XCAFDoc_ShapeTool::GetLocation(label);
  TDF_Label product = label;
  if (XCAFDoc_ShapeTool::IsReference(label)) XCAFDoc_ShapeTool::GetReferredShape(label, product);
  node.product = nameOf(product);
  // The nearest colour counts: that of the instance, of the product, of what holds it.
  int colour = colourOf(label);
  if (colour < 0) colour = colourOf(product);
  node.colour = colour < 0 ? inherited : colour;
  TDF_LabelSequence components;
  if (XCAFDoc_ShapeTool::IsAssembly(product)) XCAFDoc_ShapeTool::GetComponents(product, components);
  else node.shape = shapeOf(product);
  const int at = int(nodes_.size());
  nodes_.push_back(node);
  for (const TDF_Label& c : components) walk(c, at, depth + 1, colourOf(label) < 0 ? inherited : colourOf(label));
}

int Document::shapeOf(const TDF_Label& label) {
  const auto [at, fresh] = known_.emplace(entryOf(label), int(bodies_.size()));
  if (fresh) bodies_.push_back(XCAFDoc_ShapeTool::GetShape(label));
  return at->second;
}

int Document::colour(const Quantity_ColorRGBA& c) {
  const Colour rgba = {c.GetRGB().Red(), c.GetRGB().Green(), c.GetRGB().Blue(), c.Alpha()};
  for (std::size_t i = 0; i < colours_.size(); i++)
    if (colours_[i] == rgba) return int(i);
  colours_.push_back(rgba);
  return int(colours_.size()) - 1;
}

int Document::colourOf(const TDF_Label& label) {
  Quantity_ColorRGBA c;
  for (const auto type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen})
    if (paint_->GetColor(label, type, c)) return colour(c);
  return -1;
}

// slotOf returns 0 for a face without a colour of its own, else the colour's
// index and one.
int Document::slotOf(const TopoDS_Face& face) {
  Quantity_ColorRGBA c;
  for (const auto type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen})
    if (paint_->GetColor(face, type, c)) return colour(c) + 1;
  return 0;
}

std::vector<Mesh> Document::mesh(double tolerance, double angle) {
  std::vector<Mesh> meshes;
  for (std::size_t i = 0; i < bodies_.size(); i++) {
    // A colour may lie on a solid or shell within the body.
    std::map<const void*, int> within;
    for (const auto kind : {TopAbs_SOLID, TopAbs_SHELL})
      for (TopExp_Explorer s(bodies_[i], kind); s.More(); s.Next()) {
        Quantity_ColorRGBA c;
        if (s.Current().IsSame(bodies_[i])) continue;
        for (const auto type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen})
          if (paint_->GetColor(s.Current(), type, c)) {
            for (TopExp_Explorer f(s.Current(), TopAbs_FACE); f.More(); f.Next()) within.emplace(f.Current().TShape().get(), colour(c) + 1);
            break;
          }
      }
    meshes.push_back(Mesh::of(bodies_[i], tolerance, angle, [&](const TopoDS_Face& face) {
      if (const int own = slotOf(face)) return own;
      const auto outer = within.find(face.TShape().get());
      return outer == within.end() ? 0 : outer->second;
    }));
    Progress::say("meshing", double(i + 1) / double(bodies_.size()));
  }
  return meshes;
}

nlohmann::json Document::describe(const std::vector<Mesh>& meshes) const {
  nlohmann::json out = {{"unit", unit_}, {"millimetres", millimetres_}, {"schema", schema_}, {"messages", messages_},
                        {"colours", colours_}, {"nodes", nlohmann::json::array()}, {"shapes", nlohmann::json::array()}};
  for (const Node& n : nodes_) {
    const gp_Trsf t = n.place.Transformation();
    std::array<double, 12> rows;
    for (int r = 1; r <= 3; r++)
      for (int c = 1; c <= 4; c++) rows[std::size_t(4 * (r - 1) + c - 1)] = t.Value(r, c);
    out["nodes"].push_back({{"parent", n.parent}, {"name", n.name}, {"product", n.product}, {"place", rows}, {"shape", n.shape}, {"colour", n.colour}});
  }
  for (const Mesh& m : meshes) {
    nlohmann::json patches = nlohmann::json::array();
    for (const Patch& p : m.patches) patches.push_back({{"slot", p.slot}, {"first", p.first}, {"count", p.count}});
    out["shapes"].push_back({{"vertices", m.positions.size() / 3}, {"triangles", m.triangles.size() / 3}, {"patches", patches},
                             {"volume", m.volume}, {"area", m.area}, {"solids", m.solids}, {"faces", m.faces}, {"unmeshed", m.unmeshed}});
  }
  return out;
}

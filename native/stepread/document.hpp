#pragma once

#include "mesh.hpp"

#include <TDF_Label.hxx>
#include <TDocStd_Document.hxx>
#include <TopLoc_Location.hxx>
#include <TopoDS_Shape.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>

#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

// Document is one file as the kernel has it: a tree of placed names over
// shapes that are kept once.
class Document {
 public:
  Document(const std::string& kind, const std::string& file);
  std::vector<Mesh> mesh(double tolerance, double angle);
  nlohmann::json describe(const std::vector<Mesh>& meshes) const;

 private:
  struct Node {
    int parent;
    std::string name, product;
    TopLoc_Location place;
    int shape = -1;
    int colour = -1;  // index into colours, −1 for none
  };
  using Colour = std::array<double, 4>;

  void readStep(const std::string& file);
  void readIges(const std::string& file);
  void walk(const TDF_Label& label, int parent, int depth, int inherited);
  int shapeOf(const TDF_Label& label);
  int colourOf(const TDF_Label& label);
  int colour(const Quantity_ColorRGBA& c);
  int slotOf(const TopoDS_Face& face);

  Handle(TDocStd_Document) doc_;
  Handle(XCAFDoc_ShapeTool) shapes_;
  Handle(XCAFDoc_ColorTool) paint_;
  std::vector<Node> nodes_;
  std::vector<TopoDS_Shape> bodies_;
  std::map<std::string, int> known_;  // by label entry
  std::vector<Colour> colours_;
  std::string unit_, schema_;
  double millimetres_ = 0;  // in one unit; 0 when the file does not say
  std::vector<std::string> messages_;
};

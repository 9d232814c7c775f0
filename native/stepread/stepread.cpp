// stepread reads one STEP or IGES file and writes its tree and its triangles on
// standard output: one line of JSON, then the arrays that it announces (see
// docs/formats.md). It runs as a process of its own, so that whatever happens
// inside the geometry kernel happens outside the server.
//
//   stepread --kind step|iges --tolerance SHARE --angle RAD --memory MB --seconds S FILE
//
// On standard error it says how far it is: "reading 0.25". Exit code 1 and a
// line "error …" mean that the file could not be read.
#include "document.hpp"
#include "mesh.hpp"

#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Standard_Failure.hxx>
#include <Standard_OutOfMemory.hxx>

#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <exception>
#include <iostream>
#include <new>
#include <string>
#include <sys/resource.h>

namespace {

struct Options {
  std::string kind = "step", file;
  double tolerance = 0.001, angle = 0.35;
  long memory = 4096, seconds = 600;
};

Options parse(int argc, char** argv) {
  Options o;
  for (int i = 1; i < argc; i++) {
    const std::string word = argv[i];
    const auto value = [&] { return i + 1 < argc ? argv[++i] : ""; };
    if (word == "--kind") o.kind = value();
    else if (word == "--tolerance") o.tolerance = std::atof(value());
    else if (word == "--angle") o.angle = std::atof(value());
    else if (word == "--memory") o.memory = std::atol(value());
    else if (word == "--seconds") o.seconds = std::atol(value());
    else o.file = word;
  }
  return o;
}

// A hostile file must not take the machine with it.
void bound(int what, rlim_t limit, rlim_t grace = 0) {
  const rlimit r = {limit, limit + grace};
  setrlimit(what, &r);
}

constexpr char kTooMuchMemory[] = "the file needs more memory than is allowed";

int fail(const char* why) {
  std::fprintf(stderr, "error %s\n", why);
  return 1;
}

}  // namespace

int main(int argc, char** argv) {
  const Options o = parse(argc, argv);
  if (o.file.empty()) return fail("no file was named");
  bound(RLIMIT_AS, rlim_t(o.memory) << 20);
  bound(RLIMIT_CPU, rlim_t(o.seconds), 5);  // with grace, the signal tells that it was the time
  bound(RLIMIT_CORE, 0);
  Message::DefaultMessenger()->ChangePrinters().Clear();  // the kernel would talk into our output
  try {
    Document document(o.kind, o.file);
    const std::vector<Mesh> meshes = document.mesh(o.tolerance, o.angle);
    std::cout << document.describe(meshes).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) << '\n';
    for (const Mesh& m : meshes) m.write(std::cout);
    std::cout.flush();
    return std::cout.good() ? 0 : fail("the output could not be written");
  } catch (const std::bad_alloc&) {
    return fail(kTooMuchMemory);
  } catch (const Standard_OutOfMemory&) {
    return fail(kTooMuchMemory);
  } catch (const Standard_Failure& e) {
    return fail(e.GetMessageString() && *e.GetMessageString() ? e.GetMessageString() : e.DynamicType()->Name());
  } catch (const std::exception& e) {
    return fail(e.what());
  }
}

#pragma once

#include <Message_ProgressIndicator.hxx>
#include <Message_ProgressScope.hxx>

#include <cstdio>

// Progress says on standard error how far a stage is, in steps of a percent.
class Progress : public Message_ProgressIndicator {
 public:
  explicit Progress(const char* stage) : stage_(stage) {}
  static void say(const char* stage, double share) {
    std::fprintf(stderr, "%s %.2f\n", stage, share);
    std::fflush(stderr);
  }

 protected:
  void Show(const Message_ProgressScope&, const Standard_Boolean) override {
    if (GetPosition() < said_ + 0.01) return;
    said_ = GetPosition();
    say(stage_, said_);
  }

 private:
  const char* stage_;
  double said_ = -1;
};

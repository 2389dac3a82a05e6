// iterandum-print: records as a PDF, without a screen. It takes the words of `iterandum-cli show`.
#include <QGuiApplication>
#include <QIODevice>
#include <QPdfWriter>
#include <csignal>
#include <cstdio>
#include <exception>

#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/store/store.h"
#include "pages/print_records.h"

namespace iterandum::cli {

const char* const kProgram = "iterandum-print";

namespace {

// What Qt writes goes where the file is, piece by piece.
class PieceDevice final : public QIODevice {
 public:
  explicit PieceDevice(RecordWriter::Sink sink) : sink_(std::move(sink)) {}
  [[nodiscard]] bool isSequential() const override { return true; }
  [[nodiscard]] const Status& status() const { return status_; }

 protected:
  qint64 readData(char*, qint64) override { return -1; }
  qint64 writeData(const char* data, qint64 size) override {
    if (status_) status_ = sink_({data, static_cast<std::size_t>(size)});
    return status_ ? size : -1;
  }

 private:
  RecordWriter::Sink sink_;
  Status status_;
};

// Values as they are stored, unless a form says otherwise.
Result<PrintForm> formOf(const Arguments& a) {
  PrintForm out;
  out.asStored = !a.asShown;
  if (!a.file.empty()) {
    ITERANDUM_ASSIGN(const std::string document, readWhole(a.file));
    auto read = printFormFromJson(document);
    if (!read) {
      read.error().place = a.file + (read.error().place.empty() ? "" : ", " + read.error().place);
      return fail(std::move(read.error()));
    }
    out = std::move(*read);
  }
  if (!a.title.empty()) out.title = a.title;
  return out;
}

// How records are called, and the lenses: what the window keeps for the database.
Status readKept(const std::string& address, PrintedRecords& printed) {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(printed.calledBy, store->readableChoices(address));
  ITERANDUM_ASSIGN(printed.lenses, store->lenses(address));
  return {};
}

Status print(const Arguments& a) {
  if (a.output.empty()) return fail(ErrorKind::InvalidInput, "say with -o FILE.pdf where it is to be written");
  if (!a.format.empty()) return fail(ErrorKind::InvalidInput, "what is printed is a PDF", "--format");
  ITERANDUM_TRY(wantTable(a));
  ITERANDUM_TRY(refuseTargets({a.output}, {a.scopeFile, a.file}, a.database));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const auto called, readCalledRecords(a, *session, progress));
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_ASSIGN(const PrintForm form, formOf(a));
  PrintedRecords printed;
  printed.catalogue = &called->catalogue;
  printed.scope = called->scope;
  printed.limit = a.limit;
  if (!form.asStored) ITERANDUM_TRY(readKept(session->info().address, printed));
  PieceDevice device([&](std::string_view piece) { return file->append(piece); });
  device.open(QIODevice::WriteOnly | QIODevice::Unbuffered);
  {
    QPdfWriter pdf(&device);
    pdf.setResolution(kDots);
    pdf.setTitle(QString::fromStdString(form.title.empty() ? called->shown.form.title : form.title));
    pdf.setCreator(QStringLiteral("Iterandum"));
    PagedTarget target(pdf);
    ITERANDUM_TRY(printRecords(*session, std::move(printed), form, target, progress));
  }
  if (!device.status()) return device.status();
  ITERANDUM_TRY(file->finish());
  return file->putInPlace();
}

}  // namespace
}  // namespace iterandum::cli

int main(int argc, char** argv) {
  using namespace iterandum::cli;
  std::signal(SIGPIPE, SIG_IGN);
  qputenv("QT_QPA_PLATFORM", "offscreen");
  // What Qt finds missing on a machine without a desktop is nothing to whoever prints.
  qInstallMessageHandler([](QtMsgType type, const QMessageLogContext&, const QString& message) {
    if (type == QtFatalMsg) std::fprintf(stderr, "%s\n", qPrintable(message));
  });
  try {
    // Its words are those of `show`.
    std::string program = kProgram;
    std::string show = "show";
    std::vector<char*> words{program.data(), show.data()};
    words.insert(words.end(), argv + (argc > 0 ? 1 : 0), argv + argc);
    int exit = 0;
    const auto arguments = readArguments(static_cast<int>(words.size()), words.data(), exit);
    if (!arguments) return exit;
    const QGuiApplication application(argc, argv);
    const iterandum::Status done = print(*arguments);
    return static_cast<int>(done ? Exit::Done : report(done.error()));
  } catch (const std::exception& e) {
    std::fprintf(stderr, "%s: unexpected failure: %s\n", kProgram, e.what());
    return static_cast<int>(Exit::Failure);
  }
}

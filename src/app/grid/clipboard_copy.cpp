#include "app/grid/clipboard_copy.h"

#include <QApplication>
#include <QClipboard>
#include <QElapsedTimer>
#include <QLocale>
#include <QMimeData>
#include <QTimer>
#include <set>

namespace iterandum {
namespace {

constexpr int kStepMs = 10;
// Of more cells than this it is said how far it is, and no HTML is made, which nothing could paste.
constexpr qint64 kManyCells = 200000;

// A field of tab-separated text as spreadsheets write and read it: quoted where it holds what would end it.
QString tabField(const QString& text) {
  const bool odd = text.contains('\t') || text.contains('\n') || text.contains('\r') || text.startsWith('"');
  if (!odd) return text;
  return QLatin1Char('"') + QString(text).replace(QLatin1Char('"'), QStringLiteral("\"\"")) + QLatin1Char('"');
}

}  // namespace

struct ClipboardCopy::Job {
  Wish wish;
  ManyRecords::Records records;
  std::function<void(const ManyRecords::Records&)> done;
  QString plain;
  QString html;
  bool withHtml = true;
  std::size_t part = 0;
  int offset = 0;      // rows of the part that are done
  std::size_t at = 0;  // records that are done
  QElapsedTimer said;
};

ClipboardCopy::ClipboardCopy(SheetModel& model, ManyRecords& many, QObject* parent)
    : QObject(parent), model_(model), many_(many) {}

void ClipboardCopy::stop() { job_.reset(); }

bool ClipboardCopy::canCopy(const Wish& wish) {
  for (const Part& part : wish.parts) {
    for (const int column : part.columns) {
      if (!model_.isBorrowed(column)) continue;
      for (int row = part.rows.first; row <= part.rows.last; ++row) {
        if (model_.cell(row, column).loaded) continue;
        emit said(
            tr("Nothing was copied: %1 is borrowed, and not read for all of these records. Leave it out, or select "
               "what is on screen.")
                .arg(model_.columnName(column)));
        return false;
      }
    }
  }
  return true;
}

void ClipboardCopy::start(Wish wish, std::function<void(const ManyRecords::Records&)> done) {
  stop();
  if (!canCopy(wish)) return;
  std::vector<RowRange> rows;
  for (const Part& part : wish.parts) rows.push_back(part.rows);
  many_.take(rows, [this, wish = std::move(wish), done = std::move(done)](ManyRecords::Records&& taken) {
    job_ = std::make_shared<Job>();
    job_->wish = wish;
    job_->records = std::move(taken);
    job_->done = done;
    if (!wantNames(*job_)) return begin(job_);
    // Others ask for names as well: all of them have to be there.
    auto* waiting = new QObject(this);
    connect(&model_.desk().names(), &ReferenceNames::named, waiting, [this, waiting, job = std::weak_ptr<Job>(job_)] {
      if (model_.desk().names().asking()) return;
      waiting->deleteLater();
      model_.desk().names().disconnect(waiting);
      const auto wanted = job.lock();
      if (wanted != nullptr && wanted == job_) begin(wanted);
    });
  });
}

bool ClipboardCopy::wantNames(const Job& job) const {
  if (job.wish.stored) return false;
  ReferenceNames& names = model_.desk().names();
  std::set<int> columns;
  for (const Part& part : job.wish.parts) columns.insert(part.columns.begin(), part.columns.end());
  for (const int column : columns) {
    if (model_.reference(column) == nullptr || model_.isBorrowed(column)) continue;
    std::vector<Value> values;
    for (const ManyRecords::One& record : job.records) values.push_back(many_.effective(record, column));
    names.want(model_.table(), static_cast<std::size_t>(column), values);
  }
  return names.asking();
}

void ClipboardCopy::begin(const std::shared_ptr<Job>& job) {
  qint64 cells = 0;
  for (const Part& part : job->wish.parts) {
    cells += static_cast<qint64>(part.rows.size()) * static_cast<qint64>(part.columns.size());
  }
  job->withHtml = cells <= kManyCells;
  job->html = QStringLiteral("<meta charset=\"utf-8\"><table>");
  if (job->wish.heads && !job->wish.parts.empty()) {
    QStringList heads;
    for (const int column : job->wish.parts.front().columns) heads << model_.columnName(column);
    for (QString& head : heads) {
      job->html += QStringLiteral("<th>%1</th>").arg(head.toHtmlEscaped());
      head = tabField(head);
    }
    job->plain = heads.join(QLatin1Char('\t')) + QLatin1Char('\n');
  }
  job->said.start();
  goOn(job);
}

// As it is shown: references by name, yes and no; a text whole, with its line ends.
QString ClipboardCopy::cellText(const Wish& wish, int row, int column, const ManyRecords::One& record) const {
  const Value value =
      model_.isBorrowed(column) ? model_.cell(row, column).effective() : many_.effective(record, column);
  if (value.isNull()) return {};
  if (wish.stored) return toQ(canonicalText(value));
  const bool text = value.isString() && !value.isNumber() && model_.reference(column) == nullptr;
  const Lens* lens = model_.lens(column);
  // What is masked stays so in copies; Copy as stored asks for it.
  return text && lens == nullptr ? editText(model_.column(column), value) : model_.shown(column, value);
}

void ClipboardCopy::addRecord(Job& job, const Part& part, int row, const ManyRecords::One& record) const {
  if (job.withHtml) job.html += QLatin1String("<tr>");
  for (std::size_t c = 0; c < part.columns.size(); ++c) {
    const QString text = cellText(job.wish, row, part.columns[c], record);
    if (c > 0) job.plain += QLatin1Char('\t');
    job.plain += tabField(text);
    if (job.withHtml) {
      job.html += QStringLiteral("<td>%1</td>").arg(text.toHtmlEscaped().replace('\n', QLatin1String("<br>")));
    }
  }
  if (job.withHtml) job.html += QLatin1String("</tr>");
  job.plain += QLatin1Char('\n');
}

void ClipboardCopy::goOn(const std::shared_ptr<Job>& job) {
  if (job != job_) return;
  QElapsedTimer step;
  step.start();
  while (job->part < job->wish.parts.size()) {
    const Part& part = job->wish.parts[job->part];
    addRecord(*job, part, part.rows.first + job->offset, job->records[job->at]);
    ++job->at;
    if (++job->offset >= part.rows.size()) {
      ++job->part;
      job->offset = 0;
    }
    if (job->at % 16 != 0 || !step.hasExpired(kStepMs)) continue;
    if (job->said.hasExpired(500)) {
      job->said.restart();
      emit said(tr("Copying: %1 of %2 records; Esc stops.")
                    .arg(QLocale().toString(static_cast<qulonglong>(job->at)),
                         QLocale().toString(static_cast<qulonglong>(job->records.size()))));
    }
    QTimer::singleShot(0, this, [this, job] { goOn(job); });
    return;
  }
  job->plain.chop(1);
  auto* copied = new QMimeData;
  copied->setText(job->plain);
  if (job->withHtml) copied->setHtml(job->html + QLatin1String("</table>"));
  QApplication::clipboard()->setMimeData(copied);
  const std::shared_ptr<Job> done = std::exchange(job_, nullptr);
  done->done(done->records);
}

}  // namespace iterandum

#include "app/cells/whole_cell.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QLabel>
#include <QLocale>
#include <QPlainTextEdit>
#include <QVBoxLayout>

#include "app/style/roles.h"

namespace iterandum {
namespace {

// So much is laid out for reading; the rest is there for copying.
constexpr qsizetype kMostShown = 200000;

// Sixteen bytes a line: where they begin, in figures, and as letters where they are.
QString figures(std::string_view bytes) {
  QString out;
  for (std::size_t at = 0; at < bytes.size() && out.size() < kMostShown; at += 16) {
    QString numbers;
    QString letters;
    for (std::size_t i = at; i < std::min(at + 16, bytes.size()); ++i) {
      const auto byte = static_cast<unsigned char>(bytes[i]);
      numbers += QStringLiteral("%1 ").arg(byte, 2, 16, QLatin1Char('0'));
      letters += byte >= 0x20 && byte < 0x7F ? QChar(byte) : QChar(0x00B7);
    }
    out += QStringLiteral("%1  %2 %3\n").arg(at, 8, 16, QLatin1Char('0')).arg(numbers, -48).arg(letters);
  }
  return out;
}

}  // namespace

WholeCell::WholeCell(QWidget* parent) : QFrame(parent) {
  setObjectName("palette");
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(14, 12, 14, 12);
  title_ = new QLabel(this);
  title_->setFont(serif(1.2));
  text_ = new QPlainTextEdit(this);
  text_->setObjectName("wholeText");
  text_->setReadOnly(true);
  text_->setTabChangesFocus(true);
  text_->installEventFilter(this);
  note_ = new QLabel(this);
  note_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  note_->setWordWrap(true);
  layout->addWidget(title_);
  layout->addWidget(text_, 1);
  layout->addWidget(note_);
  hide();
}

void WholeCell::open(const QString& title, const Value& value) {
  title_->setText(title);
  const bool bytes = value.kind() == Value::Kind::Bytes;
  whole_ = bytes ? figures(value.asString()) : (value.isNull() ? QString() : toQ(canonicalText(value)));
  text_->setFont(bytes ? mono() : plain());
  text_->setPlainText(whole_.left(kMostShown));
  const QLocale locale;
  QString note = bytes ? tr("%1 bytes.").arg(locale.toString(static_cast<qulonglong>(value.asString().size())))
                       : tr("%1 characters.").arg(locale.toString(whole_.size()));
  if (value.isNull()) note = tr("There is no value.");
  if (!bytes && whole_.size() > kMostShown) {
    note += tr(" The first %1 are shown; Ctrl+C copies all of them.").arg(locale.toString(kMostShown));
  }
  note_->setText(note + tr(" Esc closes."));
  const QRect area = parentWidget()->rect().adjusted(120, 90, -120, -90);
  setGeometry(area);
  show();
  raise();
  text_->setFocus();
}

bool WholeCell::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Escape) {
      whole_.clear();
      text_->clear();
      hide();
      emit closed();
      return true;
    }
    if (key->matches(QKeySequence::Copy) && !text_->textCursor().hasSelection()) {
      QApplication::clipboard()->setText(whole_);
      return true;
    }
  }
  return QFrame::eventFilter(watched, event);
}

}  // namespace iterandum

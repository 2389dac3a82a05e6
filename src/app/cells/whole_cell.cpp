#include "app/cells/whole_cell.h"

#include <QApplication>
#include <QBuffer>
#include <QClipboard>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QImageReader>
#include <QKeyEvent>
#include <QLabel>
#include <QLocale>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSaveFile>
#include <QVBoxLayout>

#include "app/style/roles.h"

namespace iterandum {
namespace {

// So much is laid out for reading; the rest is there for copying.
constexpr qsizetype kMostShown = 200000;
// A picture beyond this is no preview: it would hold up the window while it is made out.
constexpr qsizetype kMostPictureBytes = 16 << 20;
constexpr qint64 kMostPixels = 25'000'000;
constexpr QSize kPreview(480, 300);

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
  picture_ = new QLabel(this);
  picture_->setObjectName("wholePicture");
  picture_->setAlignment(Qt::AlignLeft);
  picture_->hide();
  note_ = new QLabel(this);
  note_->setObjectName("wholeNote");
  note_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  note_->setWordWrap(true);
  save_ = new QPushButton(tr("Keep it as a file…"), this);
  save_->setObjectName("wholeSave");
  load_ = new QPushButton(tr("Take a file in its place…"), this);
  load_->setObjectName("wholeLoad");
  load_->setToolTip(tr("Staged like anything that is typed; nothing is written before it is applied"));
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(note_, 1);
  buttons->addWidget(load_);
  buttons->addWidget(save_);
  connect(save_, &QPushButton::clicked, this, &WholeCell::save);
  connect(load_, &QPushButton::clicked, this, &WholeCell::fileAsked);
  layout->addWidget(title_);
  layout->addWidget(picture_);
  layout->addWidget(text_, 1);
  layout->addLayout(buttons);
  hide();
}

void WholeCell::showPicture() {
  picture_->hide();
  if (content_.isEmpty() || content_.size() > kMostPictureBytes) return;
  QBuffer buffer(&content_);
  QImageReader reader(&buffer);
  const QSize size = reader.size();
  if (!size.isValid() || static_cast<qint64>(size.width()) * size.height() > kMostPixels) return;
  const QSize fitting = size.scaled(kPreview * devicePixelRatioF(), Qt::KeepAspectRatio).boundedTo(size);
  reader.setScaledSize(fitting);
  reader.setAutoTransform(true);
  QImage image = reader.read();
  if (image.isNull()) return;
  image.setDevicePixelRatio(devicePixelRatioF());
  picture_->setPixmap(QPixmap::fromImage(image));
  picture_->setAccessibleName(tr("A picture of %1 by %2 points").arg(size.width()).arg(size.height()));
  note_->setText(tr("A picture of %1 by %2 points. ").arg(size.width()).arg(size.height()) + note_->text());
  picture_->show();
}

void WholeCell::save() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Keep what the cell holds as a file"));
  if (path.isEmpty()) return;
  QSaveFile file(path);
  const bool kept = file.open(QIODevice::WriteOnly) && file.write(content_) == content_.size() && file.commit();
  emit said(kept ? tr("Written as %1.").arg(path) : tr("%1 could not be written: %2").arg(path, file.errorString()));
}

void WholeCell::open(const QString& title, const Value& value, bool takesFile) {
  title_->setText(title);
  const bool bytes = value.kind() == Value::Kind::Bytes;
  content_ = QByteArray::fromStdString(value.isNull() ? std::string()
                                       : bytes        ? std::string(value.asString())
                                                      : canonicalText(value));
  save_->setVisible(!value.isNull());
  load_->setVisible(takesFile);
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
  bytes ? showPicture() : picture_->hide();
  const QRect area = parentWidget()->rect().adjusted(120, 90, -120, -90);
  setGeometry(area);
  show();
  raise();
  text_->setFocus();
}

void WholeCell::close() {
  whole_.clear();
  content_.clear();
  text_->clear();
  hide();
  emit closed();
}

// Where a button has the keys.
void WholeCell::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) return close();
  QFrame::keyPressEvent(event);
}

bool WholeCell::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Escape) {
      close();
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

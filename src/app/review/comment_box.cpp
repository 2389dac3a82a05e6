#include "app/review/comment_box.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/style/roles.h"

namespace iterandum {

CommentBox::CommentBox(QWidget* parent)
    : QFrame(parent), about_(new QComboBox(this)), words_(new QPlainTextEdit(this)), write_(new QPushButton(this)) {
  setObjectName("commentForm");
  setStyleSheet(QStringLiteral("#commentForm { border: 1px solid %1; border-radius: 4px; background: %2; }")
                    .arg(css(roles().strongRule), css(roles().paper)));
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(10, 8, 10, 8);
  layout->setSpacing(6);
  auto* aboutRow = new QHBoxLayout;
  auto* label = new QLabel(tr("A comment on"), this);
  label->setBuddy(about_);
  about_->setObjectName("commentOn");
  about_->setAccessibleName(tr("What the comment is about"));
  about_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  aboutRow->addWidget(label);
  aboutRow->addWidget(about_, 1);
  layout->addLayout(aboutRow);
  words_->setObjectName("commentWords");
  words_->setAccessibleName(tr("The comment"));
  words_->setPlaceholderText(tr("A question, an answer, a reason: for whoever reviews or applies this"));
  words_->setTabChangesFocus(true);
  words_->setFixedHeight(words_->fontMetrics().lineSpacing() * 3 + 14);
  words_->installEventFilter(this);
  layout->addWidget(words_);
  auto* buttons = new QHBoxLayout;
  write_->setText(tr("Leave this comment"));
  write_->setObjectName("leaveComment");
  write_->setToolTip(tr("It stands here, goes with the change file and stays on the receipt (Ctrl+Enter)"));
  write_->setEnabled(false);
  auto* close = new QPushButton(tr("Not now"), this);
  close->setObjectName("closeComment");
  buttons->addWidget(write_);
  buttons->addWidget(close);
  buttons->addStretch(1);
  layout->addLayout(buttons);
  connect(words_, &QPlainTextEdit::textChanged, this,
          [this] { write_->setEnabled(!words_->toPlainText().trimmed().isEmpty()); });
  connect(write_, &QPushButton::clicked, this, &CommentBox::write);
  connect(close, &QPushButton::clicked, this, &CommentBox::close);
  hide();
}

void CommentBox::open(const std::vector<Place>& places) {
  places_ = places;
  about_->clear();
  for (const Place& one : places_) about_->addItem(one.words);
  show();
  words_->setFocus();
}

void CommentBox::close() {
  hide();
  emit closed();
}

void CommentBox::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) return close();
  QFrame::keyPressEvent(event);
}

bool CommentBox::eventFilter(QObject* watched, QEvent* event) {
  // The window has other uses for Ctrl+Enter.
  const bool isKey = event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride;
  if (watched == words_ && isKey) {
    const auto* key = static_cast<QKeyEvent*>(event);
    const bool isEnter = key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter;
    const bool writes = isEnter && (key->modifiers() & Qt::ControlModifier) != 0;
    if (event->type() == QEvent::ShortcutOverride) {
      if (writes) event->accept();
      return writes;
    }
    if (writes) {
      write();
      return true;
    }
    if (key->key() == Qt::Key_Escape) {
      close();
      return true;
    }
  }
  return QFrame::eventFilter(watched, event);
}

void CommentBox::write() {
  const int chosen = about_->currentIndex();
  Comment out;
  out.words = words_->toPlainText().trimmed().toStdString();
  if (out.words.empty() || chosen < 0) return;
  out.about = places_[static_cast<std::size_t>(chosen)].place;
  words_->clear();
  close();
  emit written(out);
}

}  // namespace iterandum

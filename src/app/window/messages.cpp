#include "app/window/messages.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QStyle>
#include <QTimer>

namespace iterandum {
namespace {
constexpr int kGoodForMs = 9000;
constexpr int kAmissForMs = 40000;
// What an act itself has to say is said within this time, and stays.
constexpr int kSameActMs = 400;
constexpr std::size_t kMostKept = 200;
}  // namespace

Messages::Messages(QWidget* parent) : QFrame(parent) {
  setObjectName("note");
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(14, 4, 8, 4);
  text_ = new QLabel(this);
  text_->setObjectName("message");
  text_->setWordWrap(true);
  text_->setTextFormat(Qt::PlainText);
  layout->addWidget(text_, 1);
  action_ = new QPushButton(this);
  action_->setObjectName("messageAction");
  connect(action_, &QPushButton::clicked, this, &Messages::act);
  layout->addWidget(action_, 0, Qt::AlignTop);
  auto* seen = new QPushButton(tr("Seen"), this);
  seen->setFocusPolicy(Qt::NoFocus);
  seen->setToolTip(tr("Closes the message (Ctrl+.). All messages so far: Ctrl+Alt+M"));
  connect(seen, &QPushButton::clicked, this, &QWidget::hide);
  layout->addWidget(seen, 0, Qt::AlignTop);
  leaving_ = new QTimer(this);
  leaving_->setSingleShot(true);
  connect(leaving_, &QTimer::timeout, this, &QWidget::hide);
  hide();
}

void Messages::say(const QString& message, bool good) {
  act_ = {};
  action_->hide();
  text_->setText(message);
  if (message.isEmpty()) return hide();
  setObjectName(good ? "good" : "note");
  setStyleSheet(QString());
  style()->unpolish(this);
  style()->polish(this);
  said_.push_front({QDateTime::currentDateTime(), message, good});
  if (said_.size() > kMostKept) said_.pop_back();
  shown_.start();
  leaving_->start(good ? kGoodForMs : kAmissForMs);
  show();
}

void Messages::offer(const QString& message, const QString& action, std::function<void()> act) {
  say(message, true);
  action_->setText(action);
  action_->setToolTip(tr("Ctrl+Alt+Enter"));
  action_->show();
  act_ = std::move(act);
  leaving_->stop();  // it waits for an answer, or for the next act
}

void Messages::act() {
  hide();
  if (const auto act = std::exchange(act_, {})) act();
}

void Messages::acted() {
  if (isVisible() && shown_.hasExpired(kSameActMs)) hide();
}

}  // namespace iterandum

#include "app/connect/mark_bar.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/session/desk.h"
#include "app/style/database_marks.h"

namespace iterandum {

MarkBar::MarkBar(QWidget* parent) : QFrame(parent) {
  setObjectName("markBar");
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(14, 6, 14, 6);
  layout->setSpacing(8);
  auto* words = new QLabel(tr("Call this database"), this);
  layout->addWidget(words);
  name_ = new QLineEdit(this);
  name_->setObjectName("markName");
  name_->setPlaceholderText(tr("live, trial, …"));
  name_->setMaxLength(30);
  name_->setMaximumWidth(180);
  name_->setAccessibleName(tr("Name of the mark"));
  words->setBuddy(name_);
  layout->addWidget(name_);
  const QString names[] = {tr("red"), tr("amber"), tr("green"), tr("blue"), tr("violet"), tr("grey")};
  auto* group = new QButtonGroup(this);
  for (std::size_t i = 0; i < kMarkColours.size(); ++i) {
    auto* b = new QPushButton(names[i], this);
    b->setCheckable(true);
    b->setStyleSheet(
        QStringLiteral("QPushButton { %1 border: 2px solid transparent; } QPushButton:checked { border: 2px "
                       "solid palette(text); } QPushButton:focus { border: 2px dashed palette(text); }")
            .arg(markStyle(QLatin1String(kMarkColours[i].name))));
    group->addButton(b);
    colours_.push_back(b);
    layout->addWidget(b);
  }
  readOnly_ = new QCheckBox(tr("nothing is to be changed here"), this);
  readOnly_->setObjectName("markReadOnly");
  layout->addWidget(readOnly_);
  layout->addStretch(1);
  auto* keepButton = new QPushButton(tr("Keep the mark"), this);
  keepButton->setObjectName("main");
  layout->addWidget(keepButton);
  connect(keepButton, &QPushButton::clicked, this, &MarkBar::keep);
  connect(name_, &QLineEdit::returnPressed, this, &MarkBar::keep);
  hide();
}

void MarkBar::open(const DatabaseMark& mark) {
  name_->setText(toQ(mark.name));
  readOnly_->setChecked(mark.readOnly);
  for (std::size_t i = 0; i < colours_.size(); ++i) colours_[i]->setChecked(mark.colour == kMarkColours[i].name);
  if (mark.colour.empty()) colours_[0]->setChecked(true);
  show();
  name_->setFocus();
  name_->selectAll();
}

void MarkBar::keep() {
  DatabaseMark mark;
  mark.name = name_->text().trimmed().toStdString();
  mark.readOnly = readOnly_->isChecked();
  for (std::size_t i = 0; i < colours_.size(); ++i) {
    if (colours_[i]->isChecked()) mark.colour = kMarkColours[i].name;
  }
  // One that may not be changed always says so.
  if (mark.name.empty() && mark.readOnly) mark.name = tr("read only").toStdString();
  hide();
  emit kept(mark);
}

void MarkBar::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Escape) return QFrame::keyPressEvent(event);
  hide();
}

}  // namespace iterandum

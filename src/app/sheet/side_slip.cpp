#include "app/sheet/side_slip.h"

#include <QAbstractItemView>
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/style/marks.h"
#include "app/style/roles.h"
#include "app/style/usual_keys.h"

namespace iterandum {

bool SideSlip::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride && isStagingKey(*static_cast<QKeyEvent*>(event))) event->accept();
  return QWidget::event(event);
}

void SideSlip::keyPressEvent(QKeyEvent* event) {
  if (isStagingKey(*event)) return finish();
  if (event->key() == Qt::Key_Escape) return emit leaveAsked();
  QWidget::keyPressEvent(event);
}

QVBoxLayout* SideSlip::addScrolled(QVBoxLayout* layout) {
  auto* scroll = new QScrollArea(this);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setWidgetResizable(true);
  scroll->setFocusPolicy(Qt::NoFocus);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* all = new QWidget(scroll);
  all->setObjectName("page");
  all->setAttribute(Qt::WA_StyledBackground);
  auto* out = new QVBoxLayout(all);
  out->setContentsMargins(0, 0, 4, 0);
  out->setSpacing(layout->spacing());
  scroll->setWidget(all);
  layout->addWidget(scroll, 1);
  return out;
}

QGridLayout* SideSlip::newFields() {
  auto* grid = new QGridLayout;
  grid->setColumnStretch(1, 1);
  grid->setVerticalSpacing(4);
  grid->setHorizontalSpacing(12);
  return grid;
}

void SideSlip::addField(QGridLayout* grid, const QString& label, QWidget* field) {
  auto* words = new QLabel(label, this);
  words->setFont(plain(0.92));
  words->setBuddy(field);
  field->setAccessibleName(label);
  const int row = grid->rowCount();
  // Beside the first line of what is tall.
  const bool tall = qobject_cast<QAbstractItemView*>(field) != nullptr;
  grid->addWidget(words, row, 0, tall ? Qt::AlignTop : Qt::Alignment());
  grid->addWidget(field, row, 1);
}

QComboBox* SideSlip::addChoice(QGridLayout* grid, const QString& label, const char* name, const QStringList& choices) {
  auto* choice = new QComboBox(this);
  choice->setObjectName(name);
  choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  choice->addItems(choices);
  connect(choice, &QComboBox::currentIndexChanged, this, [this] { look(); });
  addField(grid, label, choice);
  return choice;
}

QCheckBox* SideSlip::addBox(QVBoxLayout* layout, const QString& words, const char* name) {
  auto* box = new QCheckBox(words, this);
  box->setObjectName(name);
  layout->addWidget(box);
  connect(box, &QCheckBox::toggled, this, [this] { look(); });
  return box;
}

void SideSlip::showField(QWidget* field, bool shown) {
  field->setVisible(shown);
  for (QLabel* label : findChildren<QLabel*>()) {
    if (label->buddy() == field) label->setVisible(shown);
  }
}

QLabel* SideSlip::newWords(const char* name) {
  auto* words = new QLabel(this);
  words->setObjectName(name);
  words->setWordWrap(true);
  words->setTextFormat(Qt::PlainText);
  return words;
}

QListWidget* SideSlip::newList(const char* name, const QString& called) {
  auto* list = new QListWidget(this);
  list->setObjectName(name);
  list->setAccessibleName(called);
  list->setFrameShape(QFrame::NoFrame);
  list->setWordWrap(true);
  list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list->setMinimumHeight(80);
  return list;
}

void SideSlip::say(QLabel* words, const QString& text, bool amiss) {
  words->setText(text);
  QPalette palette = words->palette();
  palette.setColor(QPalette::WindowText, amiss ? roles().query : roles().ink);
  words->setPalette(palette);
}

void SideSlip::addLine(QListWidget* list, const QString& text, bool fails) {
  auto* item = new QListWidgetItem(text, list);
  if (fails) item->setIcon(QIcon(markPixmap(Mark::Query, markColor(Mark::Query), devicePixelRatioF())));
  item->setData(Qt::AccessibleTextRole, fails ? tr("not staged: %1").arg(text) : text);
}

}  // namespace iterandum

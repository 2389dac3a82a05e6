#include "app/catalogue/start_page.h"

#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QLocale>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/session/desk.h"
#include "app/style/roles.h"

namespace iterandum {

StartPage::StartPage(QWidget* parent) : QWidget(parent) {
  setObjectName("page");
  setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(120, 70, 120, 30);
  layout->setSpacing(10);
  auto* title = new QLabel(tr("What is to be gone over again?"), this);
  title->setFont(serif(2.0));
  layout->addWidget(title);
  auto* words = new QLabel(
      tr("Open a database, correct its records in a sheet, read over what would change, then apply it all at once. "
         "Nothing is written before you say so."),
      this);
  words->setFont(serif(1.15));
  words->setWordWrap(true);
  words->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  layout->addWidget(words);
  layout->addSpacing(14);
  auto* row = new QHBoxLayout;
  path_ = new QLineEdit(this);
  path_->setObjectName("openPath");
  path_->setPlaceholderText(tr("path of an SQLite database"));
  path_->setAccessibleName(tr("Path of a database"));
  path_->setMinimumHeight(34);
  auto* open = new QPushButton(tr("Open"), this);
  open->setObjectName("main");
  auto* browse = new QPushButton(tr("Choose a file…  Ctrl+Shift+O"), this);
  row->addWidget(path_, 1);
  row->addWidget(open);
  row->addWidget(browse);
  layout->addLayout(row);
  problem_ = new QLabel(this);
  problem_->setObjectName("startProblem");
  problem_->setWordWrap(true);
  problem_->setTextFormat(Qt::PlainText);
  problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
  problem_->hide();
  layout->addWidget(problem_);
  layout->addSpacing(16);
  recentHead_ = new QLabel(tr("Opened lately"), this);
  recentHead_->setFont(serif(1.15));
  layout->addWidget(recentHead_);
  list_ = new QListWidget(this);
  list_->setObjectName("recent");
  list_->setAccessibleName(tr("Databases opened lately"));
  list_->setSpacing(4);
  layout->addWidget(list_, 1);
  const auto openTyped = [this] {
    if (!path_->text().trimmed().isEmpty()) emit openAsked(path_->text());
  };
  connect(open, &QPushButton::clicked, this, openTyped);
  connect(path_, &QLineEdit::returnPressed, this, openTyped);
  connect(browse, &QPushButton::clicked, this, &StartPage::choose);
  connect(list_, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) {
    emit openAsked(toQ(recent_[static_cast<std::size_t>(list_->row(item))].address));
  });
  connect(list_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
    emit openAsked(toQ(recent_[static_cast<std::size_t>(list_->row(item))].address));
  });
  setFocusProxy(path_);
}

void StartPage::choose() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Open a database"), {},
                                                    tr("SQLite databases (*.sqlite *.sqlite3 *.db);;All files (*)"));
  if (!path.isEmpty()) emit openAsked(path);
}

void StartPage::setRecent(const std::vector<RecentDatabase>& recent) {
  recent_ = recent;
  list_->clear();
  recentHead_->setVisible(!recent.empty());
  for (const RecentDatabase& r : recent) {
    QString text = toQ(r.title) + QStringLiteral("     ") + toQ(r.address).remove(QStringLiteral("sqlite:"));
    if (r.stagedGestures > 0) text += tr("     · staged work was left here");
    list_->addItem(text);
  }
  if (!recent.empty()) list_->setCurrentRow(0);
}

void StartPage::showProblem(const QString& message) {
  problem_->setText(message);
  problem_->setVisible(!message.isEmpty());
}

}  // namespace iterandum

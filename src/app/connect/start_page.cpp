#include "app/connect/start_page.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

#include "app/connect/server_form.h"
#include "app/session/desk.h"
#include "app/style/roles.h"
#include "core/engines/common/address.h"

namespace iterandum {
namespace {

QString stepInWords(const std::string& name) {
  if (name == "name") return StartPage::tr("host found");
  if (name == "port") return StartPage::tr("server answers");
  if (name == "tls") return StartPage::tr("encryption");
  if (name == "password") return StartPage::tr("user and password");
  if (name == "file") return StartPage::tr("file found");
  if (name == "database") return StartPage::tr("database");
  return StartPage::tr("rights");
}

}  // namespace

StartPage::StartPage(QWidget* parent) : QWidget(parent) {
  setObjectName("page");
  setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(90, 36, 90, 20);
  layout->setSpacing(8);
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
  layout->addSpacing(8);
  buildLine();
  layout->addSpacing(10);
  buildColumns();
  setFocusProxy(path_);
}

void StartPage::buildLine() {
  auto* row = new QHBoxLayout;
  path_ = new QLineEdit(this);
  path_->setObjectName("openPath");
  path_->setPlaceholderText(tr("path of an SQLite database, or the address of one on a server"));
  path_->setAccessibleName(tr("Path or address of a database"));
  path_->setMinimumHeight(34);
  auto* open = new QPushButton(tr("Open"), this);
  open->setObjectName("main");
  auto* browse = new QPushButton(tr("Choose a file…  Ctrl+Shift+O"), this);
  row->addWidget(path_, 1);
  row->addWidget(open);
  row->addWidget(browse);
  static_cast<QVBoxLayout*>(layout())->addLayout(row);
  problem_ = new QLabel(this);
  problem_->setObjectName("startProblem");
  problem_->setWordWrap(true);
  problem_->setTextFormat(Qt::PlainText);
  problem_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
  problem_->hide();
  layout()->addWidget(problem_);
  waiting_ = new QLabel(this);
  waiting_->setObjectName("startWaiting");
  waiting_->setTextFormat(Qt::PlainText);
  waiting_->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  waiting_->hide();
  layout()->addWidget(waiting_);
  // A file is there at once, and a line that comes and goes would only startle.
  waitingSoon_ = new QTimer(this);
  waitingSoon_->setSingleShot(true);
  waitingSoon_->setInterval(400);
  connect(waitingSoon_, &QTimer::timeout, waiting_, &QLabel::show);
  connect(open, &QPushButton::clicked, this, &StartPage::openTyped);
  connect(path_, &QLineEdit::returnPressed, this, &StartPage::openTyped);
  connect(path_, &QLineEdit::textEdited, this, &StartPage::addressTyped);
  // A password in the address goes where it is not seen.
  connect(path_, &QLineEdit::editingFinished, this, &StartPage::hidePassword);
  connect(browse, &QPushButton::clicked, this, &StartPage::choose);
}

void StartPage::buildColumns() {
  auto* columns = new QHBoxLayout;
  columns->setSpacing(48);
  auto* left = new QVBoxLayout;
  recentHead_ = new QLabel(tr("Opened lately"), this);
  recentHead_->setFont(serif(1.15));
  recentHead_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  left->addWidget(recentHead_);
  list_ = new QListWidget(this);
  list_->setObjectName("recent");
  list_->setAccessibleName(tr("Databases opened lately"));
  list_->setSpacing(4);
  list_->setWordWrap(true);
  left->addWidget(list_, 1);
  auto* right = new QVBoxLayout;
  auto* head = new QLabel(tr("On a server"), this);
  head->setFont(serif(1.15));
  head->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  right->addWidget(head);
  form_ = new ServerForm(this);
  right->addWidget(form_);
  try_ = new QPushButton(tr("Try it without opening  Ctrl+Shift+T"), this);
  try_->setObjectName("tryOut");
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(try_);
  buttons->addStretch(1);
  right->addLayout(buttons);
  trial_ = new QLabel(this);
  trial_->setObjectName("trial");
  trial_->setTextFormat(Qt::RichText);
  trial_->setWordWrap(true);
  trial_->hide();
  right->addWidget(trial_);
  right->addStretch(1);
  right->setSpacing(10);
  columns->addLayout(left, 1);
  columns->addLayout(right, 2);
  static_cast<QVBoxLayout*>(layout())->addLayout(columns, 1);
  connect(list_, &QListWidget::itemActivated, this, [this] { openRecent(list_->currentRow()); });
  connect(list_, &QListWidget::itemClicked, this, [this] { openRecent(list_->currentRow()); });
  connect(form_, &ServerForm::changed, this, [this] {
    path_->setText(form_->address());
    trial_->hide();
  });
  connect(form_, &ServerForm::submitted, this, &StartPage::openTyped);
  connect(try_, &QPushButton::clicked, this, &StartPage::tryOut);
}

OpenWish StartPage::wish() const {
  const std::string typed = path_->text().trimmed().toStdString();
  OpenWish out;
  out.address = toQ(withoutPassword(typed));
  out.password = toQ(passwordIn(typed));
  if (out.password.isEmpty() && isServerAddress(typed)) {
    out.password = form_->password();
    out.remember = form_->wantsRemembering();
  }
  return out;
}

void StartPage::addressTyped() {
  trial_->hide();
  (void)form_->setAddress(path_->text().trimmed());
}

void StartPage::hidePassword() {
  const std::string typed = path_->text().toStdString();
  if (!passwordIn(typed).empty()) path_->setText(toQ(withoutPassword(typed)));
}

void StartPage::openTyped() {
  if (path_->text().trimmed().isEmpty()) return;
  emit openAsked(wish());
}

void StartPage::openRecent(int row) {
  if (row < 0) return;
  const QString address = toQ(recent_[static_cast<std::size_t>(row)].address);
  path_->setText(address);
  form_->setAddress(address);
  // What was typed for another database is not for this one: its own password is in the secret service, or asked for.
  emit openAsked({address, {}, false});
}

void StartPage::forgetPassword() { form_->forgetPassword(); }

void StartPage::tryOut() {
  if (path_->text().trimmed().isEmpty()) return;
  trial_->setText(tr("Trying…  Esc stops it."));
  trial_->show();
  emit trialAsked(wish());
}

void StartPage::showWaiting(const QString& message) {
  waiting_->setText(message);
  waiting_->hide();
  if (message.isEmpty()) {
    waitingSoon_->stop();
  } else {
    waitingSoon_->start();
  }
}

void StartPage::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Escape) return QWidget::keyPressEvent(event);
  trial_->hide();
  emit stopAsked();
}

void StartPage::showTrial(const std::vector<TrialStep>& steps) {
  const Roles& r = roles();
  QString html = QStringLiteral("<table cellspacing='0' cellpadding='3'>");
  for (const TrialStep& step : steps) {
    const bool good = step.state == TrialStep::State::Good;
    const bool failed = step.state == TrialStep::State::Failed;
    const QString mark = good ? QStringLiteral("✓") : failed ? QStringLiteral("?") : QStringLiteral("·");
    const QColor colour = good ? r.leaf : failed ? r.query : r.faint;
    html +=
        QStringLiteral(
            "<tr><td style='color:%1'><b>%2</b></td><td style='color:%3'>%4&nbsp;&nbsp;</td><td "
            "style='color:%5'>%6</td></tr>")
            .arg(css(colour), mark, css(failed ? r.query : r.ink), stepInWords(step.name).toHtmlEscaped(),
                 css(failed ? r.query : r.soft),
                 (step.state == TrialStep::State::NotReached ? tr("not reached") : toQ(step.words)).toHtmlEscaped());
  }
  trial_->setText(html + QStringLiteral("</table>"));
  trial_->show();
}

void StartPage::choose() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Open a database"), {},
                                                    tr("SQLite databases (*.sqlite *.sqlite3 *.db);;All files (*)"));
  if (!path.isEmpty()) emit openAsked({path, {}, false});
}

void StartPage::setRecent(const std::vector<RecentDatabase>& recent) {
  recent_ = recent;
  list_->clear();
  for (const RecentDatabase& r : recent) {
    QString text = toQ(r.title);
    if (!r.mark.name.empty()) text += QStringLiteral("  ·  ") + toQ(r.mark.name);
    text += QLatin1Char('\n') + toQ(r.address).remove(QStringLiteral("sqlite:"));
    if (r.stagedGestures > 0) text += tr("\nstaged work was left here");
    list_->addItem(text);
  }
  if (recent.empty()) {
    auto* none = new QListWidgetItem(tr("Nothing yet. What you open is listed here."), list_);
    none->setFlags(Qt::NoItemFlags);
  } else {
    list_->setCurrentRow(0);
  }
}

void StartPage::showProblem(const QString& message, const QString& address, const QString& step) {
  problem_->setText(message);
  problem_->setVisible(!message.isEmpty());
  if (!address.isEmpty()) {
    path_->setText(address);
    form_->setAddress(address);
  }
  if (step == QStringLiteral("password")) form_->focusPassword();
}

}  // namespace iterandum

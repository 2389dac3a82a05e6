#include "app/connect/server_form.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QIntValidator>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QUrl>
#include <QVBoxLayout>

#include "app/session/desk.h"
#include "app/style/roles.h"
#include "core/engines/common/address.h"
#include "core/engines/connection_trial.h"

namespace iterandum {
namespace {

QString encoded(const QString& text) { return QString::fromLatin1(QUrl::toPercentEncoding(text)); }

// The ways to encrypt the line, as the engine itself names them; the first is what it does unasked.
const QStringList& tlsModes(bool postgreSql) {
  static const QStringList kPostgreSql{QStringLiteral("prefer"),    QStringLiteral("disable"),
                                       QStringLiteral("allow"),     QStringLiteral("require"),
                                       QStringLiteral("verify-ca"), QStringLiteral("verify-full")};
  static const QStringList kMariaDb{QStringLiteral("ssl=0"), QStringLiteral("ssl=1"),
                                    QStringLiteral("ssl-verify-server-cert=1")};
  return postgreSql ? kPostgreSql : kMariaDb;
}

}  // namespace

ServerForm::ServerForm(QWidget* parent) : QWidget(parent) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(8);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  auto* chips = new QHBoxLayout;
  auto* group = new QButtonGroup(this);
  const QString names[] = {QStringLiteral("PostgreSQL"), QStringLiteral("MariaDB")};
  for (int i = 0; i < 2; ++i) {
    kinds_[i] = new QPushButton(names[i], this);
    kinds_[i]->setObjectName("chip");
    kinds_[i]->setCheckable(true);
    group->addButton(kinds_[i]);
    chips->addWidget(kinds_[i]);
    connect(kinds_[i], &QPushButton::toggled, this, [this](bool on) {
      if (on) showKind();
    });
  }
  chips->addStretch(1);
  layout->addLayout(chips);
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(14);
  grid->setVerticalSpacing(8);
  layout->addLayout(grid);
  const auto line = [&] { return new QLineEdit(this); };
  host_ = line();
  port_ = line();
  database_ = line();
  user_ = line();
  password_ = line();
  tls_ = new QComboBox(this);
  authority_ = line();
  seconds_ = line();
  host_->setPlaceholderText(tr("localhost, a socket, or one:5432, two:5432"));
  port_->setValidator(new QIntValidator(1, 65535, port_));
  password_->setEchoMode(QLineEdit::Password);
  authority_->setPlaceholderText(tr("file of those to trust"));
  seconds_->setValidator(new QIntValidator(1, 3600, seconds_));
  seconds_->setPlaceholderText(QStringLiteral("15"));
  addRow(tr("Host"), host_, "connectHost", 0, 0);
  addRow(tr("Port"), port_, "connectPort", 0, 1);
  addRow(tr("Database"), database_, "connectDatabase", 1, 0);
  addRow(tr("Wait, in seconds"), seconds_, "connectSeconds", 1, 1);
  addRow(tr("User"), user_, "connectUser", 2, 0);
  addRow(tr("Password"), password_, "connectPassword", 2, 1);
  addRow(tr("Certificates"), authority_, "connectAuthority", 3, 0);
  addRow(tr("TLS"), tls_, "connectTls", 3, 1);
  grid->setColumnStretch(1, 3);
  grid->setColumnStretch(3, 2);
  remember_ = new QCheckBox(tr("Keep the password in the desktop's secret service"), this);
  remember_->setObjectName("connectRemember");
  layout->addWidget(remember_);
  for (QLineEdit* field : {host_, port_, database_, user_, password_, authority_, seconds_}) {
    connect(field, &QLineEdit::textEdited, this, &ServerForm::changed);
    connect(field, &QLineEdit::returnPressed, this, &ServerForm::submitted);
  }
  connect(tls_, &QComboBox::currentIndexChanged, this, [this] {
    if (!filling_) emit changed();
  });
  kinds_[0]->setChecked(true);
}

void ServerForm::addRow(const QString& label, QWidget* field, const char* name, int row, int column) {
  auto* words = new QLabel(label, this);
  words->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  words->setBuddy(field);
  field->setObjectName(QLatin1String(name));
  field->setAccessibleName(label);
  field->setMinimumHeight(30);
  auto* grid = static_cast<QGridLayout*>(layout()->itemAt(1)->layout());
  grid->addWidget(words, row, 2 * column);
  grid->addWidget(field, row, 2 * column + 1);
}

ServerForm::Kind ServerForm::kind() const { return kinds_[0]->isChecked() ? Kind::PostgreSql : Kind::MariaDb; }

void ServerForm::showKind() {
  const bool postgreSql = kind() == Kind::PostgreSql;
  port_->setPlaceholderText(postgreSql ? QStringLiteral("5432") : QStringLiteral("3306"));
  filling_ = true;
  tls_->clear();
  tls_->addItems(tlsModes(postgreSql));
  filling_ = false;
  others_.clear();
  emit changed();
}

void ServerForm::setParameter(const QString& name, const QString& value) {
  const bool postgreSql = kind() == Kind::PostgreSql;
  const QString dashed = QString(name).replace(QLatin1Char('_'), QLatin1Char('-'));
  const QString mode = postgreSql ? value : dashed + QLatin1Char('=') + value;
  if ((name == QStringLiteral("sslmode") || dashed.startsWith(QStringLiteral("ssl"))) && tls_->findText(mode) >= 0) {
    tls_->setCurrentIndex(tls_->findText(mode));
  } else if (name == QStringLiteral("sslrootcert") || dashed == QStringLiteral("ssl-ca")) {
    authority_->setText(value);
  } else if (dashed == QStringLiteral("connect-timeout")) {
    seconds_->setText(value);
  } else if (name == QStringLiteral("socket") || (postgreSql && name == QStringLiteral("host"))) {
    host_->setText(value);
  } else if (name != QStringLiteral("password")) {
    others_ << encoded(name) + QLatin1Char('=') + encoded(value);
  }
}

namespace {

QString hostAndPort(const QString& host, const QString& port) {
  const QString name = host.contains(QLatin1Char(':')) ? QLatin1Char('[') + host + QLatin1Char(']') : encoded(host);
  return port.isEmpty() ? name : name + QLatin1Char(':') + port;
}

// One host, or several with commas between them, each with a port of its own where one stands beside it.
QString hostsInAddress(const QString& typed, const QString& port) {
  if (!typed.contains(QLatin1Char(','))) return hostAndPort(typed, port);
  static const QRegularExpression kWithPort(QStringLiteral("^(\\[[^\\]]*\\]|[^:]*):(\\d+)$"));
  QStringList out;
  for (const QString& part : typed.split(QLatin1Char(','))) {
    const auto split = kWithPort.match(part.trimmed());
    QString name = split.hasMatch() ? split.captured(1) : part.trimmed();
    if (name.startsWith(QLatin1Char('[')) && name.endsWith(QLatin1Char(']'))) name = name.mid(1, name.size() - 2);
    out << hostAndPort(name, split.hasMatch() ? split.captured(2) : port);
  }
  return out.join(QLatin1Char(','));
}

}  // namespace

bool ServerForm::setAddress(const QString& address) {
  if (!isServerAddress(address.toStdString())) return false;
  const auto parts = serverAddress(address.toStdString());
  if (!parts) return false;
  const QSignalBlocker quiet(this);
  const auto whom = [this] { return QStringList{host_->text(), port_->text(), user_->text()}; };
  const QStringList before = whom();
  kinds_[address.startsWith(QStringLiteral("post")) ? 0 : 1]->setChecked(true);
  for (QLineEdit* field : {host_, port_, database_, user_, authority_, seconds_}) field->clear();
  tls_->setCurrentIndex(0);
  others_.clear();
  if (parts->hosts.size() == 1) {
    host_->setText(toQ(parts->hosts[0].name));
    port_->setText(toQ(parts->hosts[0].port));
  } else {
    QStringList several;
    for (const ServerHost& host : parts->hosts) several << hostAndPort(toQ(host.name), toQ(host.port));
    host_->setText(several.join(QStringLiteral(", ")));
  }
  database_->setText(toQ(parts->database));
  user_->setText(toQ(parts->user));
  for (const auto& [name, value] : parts->parameters) setParameter(toQ(name), toQ(value));
  if (whom() != before) forgetPassword();
  const std::string secret = passwordIn(address.toStdString());
  if (!secret.empty()) password_->setText(toQ(secret));
  return true;
}

QString ServerForm::address() const {
  const bool postgreSql = kind() == Kind::PostgreSql;
  QStringList parameters;
  QString host = host_->text().trimmed();
  const bool socket = host.startsWith(QLatin1Char('/'));
  if (socket) parameters << (postgreSql ? QStringLiteral("host=") : QStringLiteral("socket=")) + encoded(host);
  if (socket) host.clear();
  const QString mode = tls_->currentText();
  if (tls_->currentIndex() > 0) parameters << (postgreSql ? QStringLiteral("sslmode=") + mode : mode);
  if (!authority_->text().isEmpty()) {
    parameters << (postgreSql ? QStringLiteral("sslrootcert=") : QStringLiteral("ssl-ca=")) +
                      encoded(authority_->text());
  }
  if (!seconds_->text().isEmpty()) {
    parameters << (postgreSql ? QStringLiteral("connect_timeout=") : QStringLiteral("connect-timeout=")) +
                      seconds_->text();
  }
  parameters << others_;
  QString out = postgreSql ? QStringLiteral("postgresql://") : QStringLiteral("mariadb://");
  if (!user_->text().isEmpty()) out += encoded(user_->text()) + QLatin1Char('@');
  out += hostsInAddress(host, port_->text());
  out += QLatin1Char('/') + encoded(database_->text());
  return parameters.isEmpty() ? out : out + QLatin1Char('?') + parameters.join(QLatin1Char('&'));
}

QString ServerForm::password() const { return password_->text(); }
bool ServerForm::wantsRemembering() const { return remember_->isChecked() && !password_->text().isEmpty(); }
void ServerForm::forgetPassword() { password_->clear(); }
void ServerForm::focusPassword() {
  password_->setFocus();
  password_->selectAll();
}

}  // namespace iterandum

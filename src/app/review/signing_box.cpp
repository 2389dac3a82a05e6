#include "app/review/signing_box.h"

#include <QComboBox>
#include <QFrame>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/style/moments.h"
#include "app/style/roles.h"
#include "app/values/shown_value.h"
#include "core/apply/apply.h"
#include "core/value/visible_text.h"

namespace iterandum {
namespace {
constexpr SigningRule kRules[] = {SigningRule::Anyone, SigningRule::Signed, SigningRule::ByKey};
}

SigningBox::SigningBox(Desk& desk, QWidget* parent)
    : QWidget(parent),
      desk_(desk),
      words_(new QLabel(this)),
      open_(new QPushButton(tr("Sign what is reviewed…"), this)),
      form_(new QFrame(this)) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(4);
  words_->setObjectName("signatures");
  words_->setWordWrap(true);
  words_->setTextFormat(Qt::PlainText);
  words_->setFont(plain(0.92));
  words_->hide();
  open_->setObjectName("signReview");
  open_->setToolTip(
      tr("Your name under just these changes, for whoever applies them. It goes with the change file and stays on the "
         "receipt; any change voids it"));
  connect(open_, &QPushButton::clicked, this, &SigningBox::open);
  layout->addWidget(words_);
  layout->addWidget(open_, 0, Qt::AlignLeft);
  layout->addWidget(form_);
  buildForm();
  form_->hide();
}

void SigningBox::buildForm() {
  form_->setObjectName("signingForm");
  form_->setStyleSheet(QStringLiteral("#signingForm { border: 1px solid %1; border-radius: 4px; background: %2; }")
                           .arg(css(roles().strongRule), css(roles().paper)));
  auto* layout = new QVBoxLayout(form_);
  layout->setContentsMargins(10, 8, 10, 8);
  layout->setSpacing(4);
  const auto labelled = [this, layout](const QString& text, QWidget* field) {
    auto* label = new QLabel(text, form_);
    label->setFont(plain(0.92));
    label->setBuddy(field);
    field->setAccessibleName(text);
    layout->addWidget(label);
    layout->addWidget(field);
  };
  name_ = new QComboBox(form_);
  name_->setObjectName("signAs");
  name_->setEditable(true);
  name_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  name_->addItem(toQ(systemUserName()));
  name_->setToolTip(tr("A plain name is vouched for by nobody; a key of yours, listed here where GnuPG has one, is"));
  labelled(tr("Who signs"), name_);
  says_ = new QLineEdit(form_);
  says_->setObjectName("signWords");
  says_->setPlaceholderText(tr("seen and found right"));
  labelled(tr("In words"), says_);
  rule_ = new QComboBox(form_);
  rule_->setObjectName("signingRule");
  rule_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  for (const SigningRule rule : kRules) rule_->addItem(rulesInWords(rule));
  rule_->setToolTip(tr("Kept for this database on this desk; the command line holds to it too"));
  connect(rule_, &QComboBox::activated, this, [this](int index) {
    desk_.kept().keepChoice(kSigningRuleChoice, signingRuleName(kRules[index]));
    emit done({});
  });
  auto* buttons = new QHBoxLayout;
  sign_ = new QPushButton(tr("Sign"), form_);
  sign_->setObjectName("sign");
  auto* leave = new QPushButton(tr("Leave it"), form_);
  leave->setObjectName("leaveSigning");
  buttons->addWidget(sign_);
  buttons->addWidget(leave);
  buttons->addStretch(1);
  connect(sign_, &QPushButton::clicked, this, &SigningBox::signAsked);
  connect(says_, &QLineEdit::returnPressed, this, [this] {
    if (sign_->isEnabled()) emit signAsked();
  });
  connect(leave, &QPushButton::clicked, this, &SigningBox::close);
  layout->addLayout(buttons);
  auto* line = new QFrame(form_);
  line->setFrameShape(QFrame::HLine);
  line->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().rule)));
  layout->addSpacing(4);
  layout->addWidget(line);
  labelled(tr("What may be applied here"), rule_);
}

QString SigningBox::rulesInWords(SigningRule rule) const {
  switch (rule) {
    case SigningRule::Anyone:
      return tr("whatever is staged");
    case SigningRule::Signed:
      return tr("only what somebody else signed");
    case SigningRule::ByKey:
      break;
  }
  return tr("only what somebody else signed with a trusted key");
}

void SigningBox::show(const std::vector<JudgedSignature>& judged, bool ready) {
  ready_ = ready;
  QStringList lines;
  bool holds = !judged.empty();
  for (const JudgedSignature& one : judged) {
    QString line = toQ(visibleText(inWords(one, momentInWords(one.signature.at).toStdString())));
    line[0] = line[0].toUpper();
    lines << line;
    holds = holds && one.fits && one.vouching != Vouching::False;
  }
  const SigningRule rule = desk_.kept().signingRule();
  if (const std::string why = whyNotApplied(rule, judged); !why.empty()) {
    QString line = toQ(why);
    line[0] = line[0].toUpper();
    lines << line;
    holds = false;
  }
  words_->setText(lines.join(QLatin1Char('\n')));
  words_->setStyleSheet(QStringLiteral("color: %1;").arg(css(holds ? roles().soft : roles().query)));
  words_->setVisible(!lines.isEmpty());
  rule_->setCurrentIndex(static_cast<int>(std::find(std::begin(kRules), std::end(kRules), rule) - kRules));
  open_->setVisible(form_->isHidden());
  sign_->setEnabled(ready && !progress_);
  sign_->setToolTip(ready ? QString() : tr("Only what is ready to be applied is signed"));
}

void SigningBox::open() {
  form_->show();
  open_->hide();
  says_->setFocus();
  desk_.behind().post(
      this, [](Session&, Progress&) -> Result<std::vector<SigningKey>> { return signingKeys(); },
      [this](Result<std::vector<SigningKey>>&& keys) {
        if (keys) takeKeys(*keys);
      });
}

void SigningBox::takeKeys(const std::vector<SigningKey>& keys) {
  keys_ = keys;
  const QString typed = name_->currentText();
  name_->clear();
  name_->addItem(toQ(systemUserName()));
  for (const SigningKey& key : keys_) name_->addItem(toQ(key.name));
  name_->setCurrentText(typed);
}

void SigningBox::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape && form_->isVisible()) return close();
  QWidget::keyPressEvent(event);
}

void SigningBox::close() {
  form_->hide();
  open_->show();
  open_->setFocus();
}

void SigningBox::sign(const ChangeList& changes) {
  if (progress_) return;
  Signature wanted;
  wanted.by = name_->currentText().trimmed().toStdString();
  wanted.words = says_->text().trimmed().toStdString();
  wanted.database = desk_.info().address;
  wanted.at = nowUtc();
  const auto key = std::find_if(keys_.begin(), keys_.end(), [&](const SigningKey& k) { return k.name == wanted.by; });
  sign_->setEnabled(false);
  sign_->setText(tr("Signing…"));
  using Signed = std::pair<Signature, std::vector<JudgedSignature>>;
  // Not where something is asked of the database just now: a pass phrase may be asked for first.
  progress_ = desk_.behind().post(
      this,
      [changes, wanted, all = desk_.kept().signatures(), key = key == keys_.end() ? std::nullopt : std::optional(*key)](
          Session&, Progress&) mutable -> Result<Signed> {
        wanted.digest = changesDigest(changes);
        ITERANDUM_ASSIGN(Signature made, makeSignature(std::move(wanted), key ? &*key : nullptr));
        putIn(made, all);
        return Signed{made, judgeSignatures(all, made.digest, systemUserName())};
      },
      [this](Result<Signed>&& result) {
        progress_.reset();
        sign_->setText(tr("Sign"));
        sign_->setEnabled(ready_);
        if (!result) return emit said(tr("Nothing is signed: %1.").arg(toQ(result.error().text())));
        desk_.kept().addSignatures({result->first});
        close();
        emit done(result->second);
      });
}

}  // namespace iterandum

// What pages have in common: a list at the side (review, history), the head of a panel beside the sheet.
#pragma once

#include <QCoreApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

#include "app/style/roles.h"

namespace iterandum {

struct SideFrame {
  QWidget* side;  // its children: what stands beside the page
  QVBoxLayout* sideLayout;
  QVBoxLayout* page;
};

// Lays out `page`, which owns all of it.
[[nodiscard]] inline SideFrame buildSideFrame(QWidget* page, int sideWidth) {
  page->setObjectName("page");
  page->setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QHBoxLayout(page);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  SideFrame frame{new QWidget(page), nullptr, new QVBoxLayout};
  frame.side->setObjectName("side");
  frame.side->setAttribute(Qt::WA_StyledBackground);
  // On a narrow screen the side gives way first.
  frame.side->setMinimumWidth(200);
  frame.side->setMaximumWidth(sideWidth);
  frame.sideLayout = new QVBoxLayout(frame.side);
  frame.sideLayout->setContentsMargins(20, 14, 12, 10);
  frame.page->setContentsMargins(26, 14, 26, 0);
  layout->addWidget(frame.side, 2);
  layout->addLayout(frame.page, 5);
  return frame;
}

struct PanelHead {
  QVBoxLayout* layout;  // what the panel shows comes below
  QLabel* title;
  QLabel* subtitle;
};

// The head of a panel beside the sheet: the card, the values of a column.
[[nodiscard]] inline PanelHead buildPanelHead(QWidget* panel) {
  panel->setObjectName("page");
  panel->setAttribute(Qt::WA_StyledBackground);
  panel->setMinimumWidth(200);
  PanelHead head{new QVBoxLayout(panel), new QLabel(panel), new QLabel(panel)};
  head.layout->setContentsMargins(18, 14, 14, 8);
  head.layout->setSpacing(2);
  head.title->setFont(serif(1.35));
  head.title->setWordWrap(true);
  head.title->setTextFormat(Qt::PlainText);
  head.title->setTextInteractionFlags(Qt::NoTextInteraction);
  head.subtitle->setFont(plain(0.92));
  head.subtitle->setWordWrap(true);
  head.subtitle->setTextFormat(Qt::PlainText);
  head.subtitle->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  head.layout->addWidget(head.title);
  head.layout->addWidget(head.subtitle);
  return head;
}

struct PanelFoot {
  QPushButton* stage;
  QPushButton* close;
};

// The last line of a panel whose work ends in one gesture.
[[nodiscard]] inline PanelFoot buildPanelFoot(QWidget* panel, QVBoxLayout* layout, const QString& text,
                                              const char* name) {
  const auto tr = [](const char* words) { return QCoreApplication::translate("PanelFoot", words); };
  PanelFoot foot{new QPushButton(text, panel), new QPushButton(tr("Close"), panel)};
  foot.stage->setObjectName(name);
  foot.stage->setProperty("primary", true);
  foot.stage->setToolTip(tr("Stages it as one gesture, which Undo takes back (Ctrl+Enter)"));
  foot.close->setToolTip(tr("Esc"));
  auto* line = new QHBoxLayout;
  line->addWidget(foot.stage, 1);
  line->addWidget(foot.close);
  layout->addSpacing(4);
  layout->addLayout(line);
  return foot;
}

}  // namespace iterandum

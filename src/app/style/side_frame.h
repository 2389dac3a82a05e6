// What pages have in common: a list at the side (review, history), the head of a panel beside the sheet.
#pragma once

#include <QLabel>
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

}  // namespace iterandum

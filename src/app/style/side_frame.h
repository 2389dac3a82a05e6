// The frame of a page that has a list at its side: the review and the history.
#pragma once

#include <QVBoxLayout>
#include <QWidget>

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
  frame.side->setFixedWidth(sideWidth);
  frame.sideLayout = new QVBoxLayout(frame.side);
  frame.sideLayout->setContentsMargins(20, 14, 12, 10);
  frame.page->setContentsMargins(26, 14, 26, 0);
  layout->addWidget(frame.side);
  layout->addLayout(frame.page, 1);
  return frame;
}

}  // namespace iterandum

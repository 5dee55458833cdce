"""The one style sheet of the window, in the colours of a look."""

from __future__ import annotations

from veergust.look import Palette

FAMILY = "Barlow Semi Condensed"


def style_sheet(k: Palette) -> str:
    """The style of the window's plain parts. Each part is named by its object name; no widget has a sheet of its own,
    for Qt polishes all that lies under such a one anew."""
    return f"""
    QWidget {{ background: {k.paper}; color: {k.ink}; font-family: "{FAMILY}"; font-size: 13px;
               font-weight: 500; }}
    QLabel {{ background: transparent; }}
    QPushButton {{ background: transparent; border: none; color: {k.ink_soft}; padding: 2px 4px; min-height: 20px; }}
    QPushButton#project {{ text-align: left; }}
    QPushButton:hover {{ color: {k.ink}; }}
    QPushButton:checked {{ color: {k.ink}; font-weight: 700; }}
    QPushButton:focus {{ outline: none; }}
    QPushButton#strong {{ color: {k.accent}; font-weight: 700; }}
    QPushButton#warn {{ color: {k.warn}; }}
    QPushButton#switch {{ border: 1px solid {k.hair_strong}; padding: 2px 7px; }}
    QPushButton#switch:checked {{ background: {k.ink}; color: {k.paper_bright}; font-weight: 500; }}
    QPushButton#bench {{ font-size: 15px; padding: 10px 2px 9px 2px; border-bottom: 3px solid transparent; }}
    QPushButton#bench:checked {{ border-bottom: 3px solid {k.ink}; color: {k.ink}; }}
    QPushButton#card, QPushButton#card_strong, QPushButton#late, QPushButton#late_plain {{
                 border: 1px solid {k.hair_strong}; border-radius: 2px;
                 background: {k.paper_bright}; }}
    QPushButton#card, QPushButton#card_strong, QPushButton#card_first {{ min-height: 46px; font-size: 14px; }}
    QPushButton#late {{ min-height: 102px; }}
    QPushButton#late_plain {{ min-height: 60px; }}
    QPushButton#card:hover, QPushButton#late:hover, QPushButton#late_plain:hover {{ background: {k.selected}; }}
    QPushButton#card_strong {{ background: {k.ink}; }}
    QPushButton#card_first {{ background: {k.ink}; color: {k.paper_bright}; border: 1px solid {k.ink};
                 border-radius: 2px; font-weight: 700; }}
    QPushButton#way {{ text-align: left; padding: 0; border: 1px solid transparent; min-height: 104px; }}
    #card_name {{ font-size: 16px; font-weight: 700; color: {k.accent}; }}
    #card_title {{ font-size: 16px; font-weight: 700; color: {k.ink}; }}
    #card_more {{ font-size: 14px; color: {k.ink_soft}; }}
    #card_strong #card_name, #card_strong #card_more {{ color: {k.paper_bright}; }}
    #title {{ font-size: 31px; font-weight: 700; }}
    #subtitle {{ font-size: 15px; font-weight: 700; }}
    #lead {{ font-size: 16px; color: {k.ink_soft}; }}
    #thread {{ background: {k.hair_strong}; }}
    QMenu {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 12px; }}
    QMenu::item:selected {{ background: {k.hair}; }}
    QMenu::item:disabled {{ color: {k.ink_faint}; }}
    QMenu::separator {{ height: 1px; background: {k.hair}; margin: 4px 8px; }}
    QToolTip {{ background: {k.paper_bright}; color: {k.ink}; border: 1px solid {k.hair_strong};
                padding: 4px; }}
    QLineEdit, QPlainTextEdit {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong}; padding: 4px;
                 selection-background-color: {k.accent}; selection-color: {k.paper_bright}; }}
    QLineEdit#in_form {{ padding: 2px 5px; min-height: 16px; }}
    QDoubleSpinBox, QComboBox {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong};
                 padding: 2px 5px;
                 min-height: 16px; selection-background-color: {k.accent};
                 selection-color: {k.paper_bright}; }}
    QDoubleSpinBox:focus, QComboBox:focus, QLineEdit:focus {{ border: 1px solid {k.accent}; }}
    QDoubleSpinBox:disabled, QComboBox:disabled {{ color: {k.ink_faint}; border-color: {k.hair}; }}
    QComboBox::drop-down {{ border: none; width: 16px; }}
    QComboBox::down-arrow {{ image: none; }}
    QComboBox QAbstractItemView {{ background: {k.paper_bright}; border: 1px solid {k.hair_strong};
                 selection-background-color: {k.hair}; selection-color: {k.ink}; outline: none; }}
    QLabel#heading {{ font-weight: 700; color: {k.ink_soft}; padding-top: 6px; }}
    QLabel#field {{ color: {k.ink_soft}; }}
    QLabel#note {{ color: {k.ink_soft}; }}
    QTableWidget {{ background: {k.paper}; border: 1px solid {k.hair}; }}
    QTableWidget::item {{ padding: 1px 6px; }}
    QTableWidget::item:selected {{ background: {k.hair}; color: {k.ink}; }}
    QHeaderView::section {{ background: {k.paper_side}; color: {k.ink_soft}; border: none; padding: 3px 6px;
                 font-weight: 700; text-align: left; }}
    QTableCornerButton::section {{ background: {k.paper_side}; border: none; }}
    QLabel#stage_title {{ font-weight: 700; font-size: 15px; }}
    QLabel#whose {{ font-weight: 700; padding: 3px 14px; }}
    QListWidget::item, QListView#lines::item {{ padding: 3px 6px; }}
    QListWidget::item:disabled {{ color: {k.ink_faint}; }}
    QListWidget::item:selected, QListView#lines::item:selected {{ background: {k.hair}; color: {k.ink}; }}
    QListWidget, QListView#lines {{ background: {k.paper_side}; border: none; outline: none; }}
    QTreeView#actions {{ background: {k.paper_side}; border: none; outline: none; }}
    QListView#library {{ background: {k.paper_side}; border: none; outline: none; }}
    QTableView#grid, QTableView#joints {{ background: {k.paper}; border: none; outline: none;
                 selection-background-color: transparent; }}
    QTableView#grid::corner {{ background: {k.paper}; border: none; }}
    QTableView#joints QHeaderView::section {{ background: {k.paper}; font-size: 12px; padding: 0 0 4px 0; }}
    QLabel#grid_corner {{ background: {k.paper}; color: {k.ink_faint}; font-size: 12px; padding-left: 14px;
                 border-bottom: 1px solid {k.hair}; }}
    QTreeView#actions::branch {{ background: {k.paper_side}; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {k.hair_strong}; border-radius: 3px; min-height: 24px;
                 margin: 1px; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {k.hair_strong}; border-radius: 3px; min-width: 24px;
                 margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
                 background: transparent; border: none; height: 0; width: 0; }}
    QDialog {{ background: {k.paper_bright}; }}
    QSplitter::handle {{ background: {k.hair_strong}; }}
    QSplitter::handle:horizontal {{ width: 1px; }}
    QSplitter::handle:vertical {{ height: 1px; }}
    QPushButton#page {{ padding: 4px 5px; border-bottom: 2px solid transparent; }}
    QPushButton#page:checked {{ border-bottom: 2px solid {k.ink}; }}
    QPushButton#strip {{ background: {k.paper_side}; border-right: 1px solid {k.hair}; padding: 0; }}
    QTabBar::tab {{ background: transparent; color: {k.ink_soft}; border: none; border-bottom: 2px solid transparent;
                 padding: 4px 8px; min-height: 20px; }}
    QTabBar::tab:selected {{ color: {k.ink}; font-weight: 700; border-bottom: 2px solid {k.ink}; }}
    QTabWidget::pane {{ border: none; }}
    QTextBrowser {{ background: {k.paper_bright}; font-size: 14px; }}
    #ring {{ background: {k.accent}; }}
    #bar {{ border-bottom: 2px solid {k.hair_strong}; }}
    #brand {{ font-size: 19px; font-weight: 700; }}
    #side {{ background: {k.paper_side}; border-right: 1px solid {k.hair}; }}
    #side QPushButton {{ background: {k.paper_side}; }}
    #right {{ border-left: 2px solid {k.hair_strong}; }}
    #row {{ background: transparent; }}
    #foot {{ border-top: 2px solid {k.hair_strong}; }}
    #take {{ font-weight: 700; }}
    #big {{ font-size: 19px; font-weight: 700; }}
    #glass {{ background: transparent; }}
    """

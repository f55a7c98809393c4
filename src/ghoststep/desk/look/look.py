"""Colours, fonts and the style sheet: a hill town at night, or on paper by day.

Colour is the limb everywhere. The four limb colours differ in lightness as well as hue, so they stay apart for
colour-blind eyes and in print, and each always comes with its letter.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from importlib import resources

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

SANS, MONO = "IBM Plex Sans", "IBM Plex Mono"


@dataclass(frozen=True)
class Theme:
    name: str
    ground: str
    panel: str
    raised: str
    line: str
    strong_line: str
    text: str
    dim: str
    lamp: str  # the one accent: what is chosen, what plays
    on_lamp: str
    wave: str
    warn: str
    limbs: dict[str, str]
    on_limb: str


NIGHT = Theme(
    "night", "#11171e", "#19222b", "#243140", "#26323e", "#4a5c6d", "#ece7da", "#a3b3c1", "#ffd479", "#1c1708",
    "#7f9bb0", "#ff9d7a", {"R": "#f4b23c", "L": "#62b8f5", "K": "#f0714f", "H": "#bd97f5"}, "#10151b",
)  # fmt: skip
DAY = Theme(
    "day", "#faf7f0", "#f0ebdf", "#e2dac8", "#ddd5c4", "#9c9280", "#1d2731", "#56616c", "#8a5a00", "#fffaf0", "#5d7486",
    "#b03a10", {"R": "#a96a00", "L": "#0a69b0", "K": "#bb3610", "H": "#6b3cbc"}, "#ffffff",
)  # fmt: skip
THEMES = {theme.name: theme for theme in (NIGHT, DAY)}


class Look:
    """The theme in use; widgets ask it when they paint."""

    theme: Theme = NIGHT

    @classmethod
    def color(cls, name: str, alpha: int = 255) -> QColor:
        color = QColor(getattr(cls.theme, name))
        color.setAlpha(alpha)
        return color

    @classmethod
    def limb(cls, letter: str) -> QColor:
        return QColor(cls.theme.limbs[letter])


def load_fonts() -> None:
    """Register the fonts that ship; with none of them Qt's own stand in."""
    folder = resources.files("ghoststep.desk") / "data" / "fonts"
    for file in folder.iterdir():
        if file.name.endswith(".woff2"):
            QFontDatabase.addApplicationFontFromData(file.read_bytes())


def font(size: float, *, bold: bool = False, mono: bool = False) -> QFont:
    """A font of the program in points of 1/96 inch pixels; digits all of one width."""
    out = QFont(MONO if mono else SANS)
    out.setPixelSize(round(size))
    out.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return out


@contextmanager
def undressed() -> Iterator[None]:
    """While many widgets are put together: each that is put into another would be dressed again, with all it holds.

    They are dressed once, behind it.
    """
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    sheet = app.styleSheet()
    app.setStyleSheet("")
    try:
        yield
    finally:
        app.setStyleSheet(sheet)


def use(app: QApplication, theme: Theme) -> None:
    """Dress the whole application."""
    Look.theme = theme
    app.setStyleSheet("")  # one sheet straight after another takes Qt a second for this window, so a quarter of one
    app.setStyle("Fusion")
    app.setFont(font(13))
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, color in (
        (roles.Window, theme.ground), (roles.Base, theme.panel), (roles.AlternateBase, theme.raised),
        (roles.Button, theme.raised), (roles.Text, theme.text), (roles.WindowText, theme.text),
        (roles.ButtonText, theme.text), (roles.Highlight, theme.lamp), (roles.HighlightedText, theme.on_lamp),
        (roles.ToolTipBase, theme.raised), (roles.ToolTipText, theme.text), (roles.PlaceholderText, theme.dim),
    ):  # fmt: skip
        palette.setColor(role, QColor(color))
    app.setPalette(palette)
    app.setStyleSheet(_sheet(theme))


def _sheet(t: Theme) -> str:
    return f"""
    QWidget {{ color: {t.text}; font-family: "{SANS}"; font-size: 13px; }}
    QMainWindow, QDialog {{ background: {t.ground}; }}
    QMenuBar, QMenu {{ background: {t.panel}; color: {t.text}; }}
    QMenuBar::item {{ padding: 4px 9px; background: transparent; }}
    QMenu::item {{ padding: 5px 26px 5px 18px; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {t.lamp}; color: {t.on_lamp}; }}
    QMenu::item:disabled {{ color: {t.strong_line}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 8px; }}
    #panel, #bar, QScrollArea, QScrollArea > QWidget > QWidget {{ background: {t.panel}; }}
    #bar {{ border-top: 1px solid {t.line}; }}
    #headline {{ font-size: 30px; font-weight: 600; color: {t.text}; }}
    #title {{ font-size: 15px; font-weight: 600; }}
    #dim {{ color: {t.dim}; }}
    #section {{ color: {t.dim}; font-size: 12px; font-weight: 600; }}
    #sentence {{ font-size: 14px; color: {t.text}; }}
    #warn {{ color: {t.warn}; }}
    QPlainTextEdit {{ font-family: "{MONO}"; }}
    QPushButton, QToolButton, QComboBox, QSpinBox, QDoubleSpinBox, QLineEdit {{
        background: {t.raised}; color: {t.text}; border: 1px solid {t.line}; border-radius: 5px;
        padding: 4px 9px; min-height: 20px; }}
    QComboBox, QSpinBox, QDoubleSpinBox, QLineEdit {{ max-height: 20px; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QSpinBox::up-button, QDoubleSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::down-button {{
        width: 0; border: none; }}
    QPushButton:hover, QToolButton:hover, QComboBox:hover {{ border-color: {t.lamp}; }}
    QPushButton:focus, QToolButton:focus, QComboBox:focus, QSpinBox:focus, QDoubleSpinBox:focus, QLineEdit:focus {{
        border: 1px solid {t.lamp}; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.lamp}; color: {t.on_lamp}; border-color: {t.lamp}; }}
    QPushButton:disabled, QToolButton:disabled, QComboBox:disabled, QLineEdit:disabled,
    QSpinBox:disabled, QDoubleSpinBox:disabled {{
        color: {t.strong_line}; background: {t.panel}; }}
    QPushButton#place {{ background: transparent; border: none; border-radius: 0; font-size: 15px; font-weight: 600;
        padding: 8px 16px; color: {t.dim}; border-bottom: 3px solid transparent; }}
    QPushButton#place:checked {{ color: {t.lamp}; border-bottom: 3px solid {t.lamp}; }}
    QPushButton#example {{ background: transparent; border: none; padding: 3px 4px; text-align: left; }}
    QPushButton#example:hover {{ text-decoration: underline; }}
    QPushButton#tab {{ background: transparent; border: none; border-radius: 0; padding: 5px 2px; color: {t.dim};
        font-weight: 600; border-bottom: 2px solid {t.line}; }}
    QPushButton#tab:checked {{ color: {t.lamp}; border-bottom: 2px solid {t.lamp}; background: transparent; }}
    QPushButton#main {{ background: {t.lamp}; color: {t.on_lamp}; font-weight: 600; border-color: {t.lamp};
        padding: 7px 14px; }}
    QPushButton#main:disabled {{ background: {t.raised}; color: {t.strong_line}; border-color: {t.line}; }}
    QProgressBar {{ border: 1px solid {t.line}; border-radius: 5px; background: {t.ground}; text-align: center;
        min-height: 18px; color: {t.text}; }}
    QProgressBar::chunk {{ background: {t.lamp}; border-radius: 4px; }}
    QScrollBar:horizontal {{ background: {t.ground}; height: 12px; }}
    QScrollBar:vertical {{ background: {t.ground}; width: 12px; }}
    QScrollBar::handle {{ background: {t.strong_line}; border-radius: 5px; margin: 2px; min-width: 30px;
        min-height: 30px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QToolTip {{ background: {t.raised}; color: {t.text}; border: 1px solid {t.strong_line}; padding: 4px; }}
    QTableWidget, QListWidget {{ background: {t.panel}; border: 1px solid {t.line}; gridline-color: {t.line}; }}
    QListWidget::item {{ padding: 3px 6px; }}
    QListWidget::item:selected {{ background: {t.lamp}; color: {t.on_lamp}; }}
    QCheckBox::indicator {{ width: 15px; height: 15px; border: 1px solid {t.strong_line}; border-radius: 3px;
        background: {t.raised}; }}
    QCheckBox::indicator:checked {{ background: {t.lamp}; border-color: {t.lamp}; }}
    QHeaderView::section {{ background: {t.raised}; color: {t.dim}; border: none; padding: 4px; }}
    """

// The two themes as tables of tokens, the fonts, and one style sheet with places for the tokens. A size is
// given for text of 13 pixels and multiplied by the scale, so that larger fonts enlarge what is around them
// too.
#include "app/ground/theme.h"

#include <QFontDatabase>
#include <QPalette>
#include <QStyleFactory>
#include <cmath>

/// Resources of a static library are only there when something asks for them, from outside any namespace.
static void needResources() {
    Q_INIT_RESOURCE(resources);
}

namespace mellow::app {

namespace {

const Theme* current = &duskTheme();
double fontScale = 1.0;

QFont fontOf(const QString& family, double pixels) {
    QFont font(family);
    font.setPixelSize(static_cast<int>(std::lround(pixels * fontScale)));
    return font;
}

double channelLight(double value) {
    return value <= 0.03928 ? value / 12.92 : std::pow((value + 0.055) / 1.055, 2.4);
}

double light(const QColor& color) {
    return 0.2126 * channelLight(color.redF()) + 0.7152 * channelLight(color.greenF()) +
           0.0722 * channelLight(color.blueF());
}

void loadFonts() {
    static bool loaded = false;
    if (loaded) return;
    loaded = true;
    needResources();
    for (const char* file : {"Manrope-Regular.ttf", "Manrope-SemiBold.ttf", "B612-Regular.otf"}) {
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + QLatin1String(file));
    }
}

QPalette paletteOf(const Theme& t) {
    QPalette palette;
    palette.setColor(QPalette::Window, t.panel);
    palette.setColor(QPalette::WindowText, t.ink);
    palette.setColor(QPalette::Base, t.ground);
    palette.setColor(QPalette::AlternateBase, t.panel);
    palette.setColor(QPalette::Text, t.ink);
    palette.setColor(QPalette::Button, t.raised);
    palette.setColor(QPalette::ButtonText, t.ink);
    palette.setColor(QPalette::Highlight, t.sky);
    palette.setColor(QPalette::HighlightedText, t.ground);
    palette.setColor(QPalette::ToolTipBase, t.raised);
    palette.setColor(QPalette::ToolTipText, t.ink);
    palette.setColor(QPalette::PlaceholderText, t.dim);
    palette.setColor(QPalette::Disabled, QPalette::Text, t.dim);
    palette.setColor(QPalette::Disabled, QPalette::ButtonText, t.dim);
    palette.setColor(QPalette::Disabled, QPalette::WindowText, t.dim);
    return palette;
}

const char* const sheet = R"(
* { outline: none; }
QMainWindow, QDialog { background: %panel; }
QWidget#header, QWidget#leftPanel, QWidget#rightPanel, QWidget#bottomPanel { background: %panel; }
QWidget#middle { background: %ground; }
QMenuBar { background: %panel; color: %ink; padding: 0 %4; }
QMenuBar::item { padding: %3 %8; background: transparent; border-radius: %4; }
QMenuBar::item:selected { background: %raised; }
QMenu { background: %raised; color: %ink; border: 1px solid %line; padding: %4; }
QMenu::item { padding: %5 %24 %5 %12; border-radius: %4; }
QMenu::item:selected { background: %sky; color: %ground; }
QMenu::item:disabled { color: %dim; }
QMenu::separator { height: 1px; background: %line; margin: %4 %8; }
QSplitter::handle { background: %line; }
QSplitter::handle:hover { background: %sky; }
QToolTip { background: %raised; color: %ink; border: 1px solid %line; padding: %4; }
QLabel { background: transparent; }
QFrame#firstSteps { background: %panel; border-radius: 10px; }
QFrame#firstCard { background: %ground; border: 1px solid %line; border-radius: 8px; }
QFrame#firstCard[now="true"] { border: 1px solid %sky; }
QFrame#firstCard QLabel { background: transparent; }
QListWidget::item { min-height: %22; padding: 0 %4; border-radius: %4; }
QListWidget::item:selected { background: %raised; color: %ink; }
QTextBrowser { background: %panel; color: %ink; border-radius: 8px; padding: %8; }
QFrame#stepPicker, QFrame#finder { background: %ground; border: 1px solid %line; border-radius: 8px; }
QWidget#top, QWidget#strip { background: %panel; }
QFrame#learnBanner, QFrame#reachBanner { background: %ground; border-left: %4 solid %honey; border-radius: %6; }
QLabel[role="title"] { font-size: %f16; font-weight: 600; }
QLabel[role="section"] { color: %dim; }
QLabel[role="help"] { color: %dim; }
QLabel[role="trouble"] { color: %clay; }
QLabel[role="caption"] { color: %dim; font-size: %f115; }
QPushButton, QToolButton { background: %raised; color: %ink; border: 1px solid transparent; border-radius: %6;
  padding: %4 %10; min-height: %18; }
QPushButton:hover, QToolButton:hover { border-color: %line; }
QPushButton:focus, QToolButton:focus { border-color: %sky; }
QPushButton:pressed, QToolButton:pressed, QPushButton:checked { background: %line; }
QPushButton:disabled, QToolButton:disabled { color: %dim; background: %panel; }
QToolButton::menu-indicator, QPushButton::menu-indicator { image: none; width: 0; }
QPushButton#silence { background: transparent; border: 1px solid %clay; color: %clay; border-radius: %12; padding: %4 %16; }
QPushButton#silence:hover, QPushButton#silence:focus { background: %raised; }
QPushButton[role="chip"] { border: 1px solid %line; background: %ground; }
QPushButton[role="ribbon"] { border: 1px solid %honey; border-left: %4 solid %honey; background: %ground; padding-left: %8; }
QPushButton[role="chip"]:checked { border: 1px solid %sky; background: %raised; }
QListView#offers { background: %raised; color: %ink; border: 1px solid %line; padding: %4; }
QListView#offers::item { padding: %4 %6; border-radius: %4; }
QListView#offers::item:selected, QListView#offers::item:hover { background: %ground; color: %ink; }
QPushButton[role="addSmall"] { color: %dim; border: 1px dashed %dim; background: transparent; padding: %4 0; }
QPushButton[role="add"] { color: %dim; border: 1px dashed %dim; background: transparent; padding: %4 %6; }
QPushButton[role="page"] { background: transparent; color: %dim; border: none; border-bottom: %3 solid transparent;
  border-radius: 0; padding: %14 %4 %9 %4; margin: 0 %3; min-height: %20; }
QPushButton[role="page"]:hover, QPushButton[role="page"]:focus { color: %ink; border-bottom: %3 solid %line; }
QPushButton[role="page"]:checked { color: %ink; border-bottom: %3 solid %sky; }
QPushButton[role="number"] { background: transparent; color: %ink; padding: %4 %6; }
QPushButton[role="number"]:pressed { background: %raised; }
QFrame#transport { background: %ground; border-radius: %12; }
QPushButton[role="compact"] { padding: 0 %8; min-height: %18; font-size: %f115; border: 1px solid %line; }
QPushButton[role="inside"] { background: transparent; border: 1px solid transparent; padding: %2 %6; text-align: left; }
QPushButton[role="inside"]:hover, QPushButton[role="inside"]:focus { border-color: %line; }
QPushButton[role="pill"] { background: transparent; border: 1px solid %line; border-radius: %12; color: %dim; padding: %3 %10; }
QPushButton[role="pill"]:hover, QPushButton[role="pill"]:focus { border-color: %sky; color: %ink; }
QFrame#popover { background: %raised; border: 1px solid %line; border-radius: %8; }
QFrame#popover QPushButton { background: %panel; }
QPushButton[role="danger"] { color: %clay; background: transparent; border: 1px solid %line; }
QLineEdit, QComboBox, QSpinBox { background: %ground; color: %ink; border: 1px solid %line; border-radius: %6; padding: %2 %8;
  min-height: %22; selection-background-color: %sky; selection-color: %ground; }
QLineEdit:focus, QComboBox:focus, QSpinBox:focus { border-color: %sky; }
QLineEdit[wrong="true"] { border-color: %clay; }
QLineEdit > QToolButton { background: transparent; border: none; padding: 0; min-height: 0; }
QComboBox { padding-left: %10; }
QComboBox::drop-down { border: none; width: %20; }
QComboBox::down-arrow { image: url(:/icons/%arrow.svg); width: %10; height: %10; }
QComboBox QAbstractItemView { background: %raised; color: %ink; border: 1px solid %line; selection-background-color: %sky;
  selection-color: %ground; }
QCheckBox { spacing: %8; background: transparent; }
QCheckBox::indicator, QTableView::indicator, QListView::indicator, QTreeView::indicator { width: %14; height: %14; border: 1px solid %dim; border-radius: %4; background: %ground; }
QTreeView::indicator:indeterminate { background: %line; border-color: %sky; }
QTreeView { background: %panel; color: %ink; border-radius: %10; selection-background-color: %raised; selection-color: %ink; padding: %6; }
QTreeView::item { padding: %3 %4; border-radius: %4; }
QTreeView::item:selected, QTreeView::item:hover { background: %raised; color: %ink; }
QCheckBox::indicator:checked, QTableView::indicator:checked, QListView::indicator:checked, QTreeView::indicator:checked { background: %sky; border-color: %sky; image: url(:/icons/%tick.svg); }
QCheckBox:focus { color: %sky; }
QRadioButton { spacing: %8; background: transparent; }
QRadioButton::indicator { width: %14; height: %14; border: 1px solid %dim; border-radius: %8; background: %ground; }
QRadioButton::indicator:checked { background: %sky; border: %4 solid %ground; }
QRadioButton:focus { color: %sky; }
QComboBox QListView { background: %raised; color: %ink; border: 1px solid %line; }
QSlider::groove:horizontal { height: %4; background: %line; border-radius: %2; }
QSlider::handle:horizontal { width: %14; height: %14; margin: -%5 0; border-radius: %6; background: %sky; }
QSlider::handle:horizontal:focus { background: %ink; }
QAbstractScrollArea { background: transparent; border: none; }
QScrollArea > QWidget > QWidget { background: transparent; }
QScrollBar:vertical { background: transparent; width: %10; margin: 0; }
QScrollBar:horizontal { background: transparent; height: %10; margin: 0; }
QScrollBar::handle { background: %line; border-radius: %5; min-height: %24; min-width: %24; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QTableView { background: %panel; color: %ink; border-radius: %10; selection-background-color: %raised;
  selection-color: %ink; padding: %4; }
QTableView::item { padding: 0 %8; }
QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }
QHeaderView { background: transparent; }
QHeaderView::section { background: transparent; color: %dim; border: none; border-bottom: 1px solid %line;
  padding: %4 %3; font-size: %f115; }
QPushButton[role="small"] { padding: %2; min-height: %20; background: transparent; color: %dim; border: 1px solid %line; }
QPushButton[role="plain"] { padding: %2 %8; min-height: %20; background: transparent; color: %dim; border: 1px solid %line; }
QPushButton[role="plain"]:checked { background: %raised; color: %ink; border-color: %sky; }
QPushButton[role="small"]:checked { background: %raised; color: %ink; border-color: %sky; }
QFrame#card { background: %panel; border-radius: %10; }
QFrame#notice { background: %raised; border-left: %4 solid %sky; border-radius: %6; }
QFrame#rule { background: %line; max-height: 1px; min-height: 1px; }
)";

QString styleSheetOf(const Theme& t) {
    QString text = QString::fromLatin1(sheet);
    const std::pair<const char*, QColor> colors[] = {
        {"%ground", t.ground}, {"%panel", t.panel}, {"%raised", t.raised},
        {"%line", t.line},     {"%ink", t.ink},     {"%dim", t.dim},
        {"%clay", t.clay},     {"%sky", t.sky},     {"%honey", t.honey}};
    for (const auto& [token, color] : colors) text.replace(QLatin1String(token), color.name());
    text.replace(QLatin1String("%arrow"), QStringLiteral("arrow-") + t.name.toLower());
    text.replace(QLatin1String("%tick"), QStringLiteral("tick-") + t.name.toLower());
    text.replace(QLatin1String("%f115"), QStringLiteral("%1px").arg(captionFont().pixelSize()));
    text.replace(QLatin1String("%f20"), QStringLiteral("%1px").arg(titleFont().pixelSize() * 5 / 4));
    text.replace(QLatin1String("%f16"), QStringLiteral("%1px").arg(titleFont().pixelSize()));
    for (int pixels = 32; pixels > 0; --pixels) {
        text.replace(QStringLiteral("%%1").arg(pixels), QStringLiteral("%1px").arg(scaled(pixels)));
    }
    return text;
}

}  // namespace

const Theme& duskTheme() {
    static const Theme dusk{QStringLiteral("Dusk"),
                            0x17201F,
                            0x1E2A28,
                            0x273533,
                            0x3A4A47,
                            0xF2EBDD,
                            0xA9B5AD,
                            0xF0B94A,
                            0x7FD1AE,
                            0xE58A6B,
                            0x8FB8DE};
    return dusk;
}

const Theme& linenTheme() {
    // Dim is a shade darker than a first choice of #66726B, which has too little contrast on the raised
    // surface.
    static const Theme linen{QStringLiteral("Linen"),
                             0xF6F1E6,
                             0xFFFDF7,
                             0xEFE7D6,
                             0xD8CDB6,
                             0x24302D,
                             0x5A655F,
                             0x8A5800,
                             0x1C6F50,
                             0xA84126,
                             0x2A6396};
    return linen;
}

const Theme& theme() {
    return *current;
}

void applyTheme(QApplication& application, const Theme& chosen, double scale) {
    current = &chosen;
    fontScale = scale;
    loadFonts();
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    application.setFont(bodyFont());
    application.setPalette(paletteOf(chosen));
    application.setStyleSheet(styleSheetOf(chosen));
}

QFont bodyFont() {
    return fontOf(QStringLiteral("Manrope"), 13);
}
QFont titleFont() {
    QFont font = fontOf(QStringLiteral("Manrope"), 16);
    font.setWeight(QFont::DemiBold);
    return font;
}
QFont captionFont() {
    return fontOf(QStringLiteral("Manrope"), 11.5);
}
QFont numberFont() {
    QFont font = fontOf(QStringLiteral("B612"), 12);
    // Its stems are drawn as they are; rounded to whole pixels they would look bold.
    font.setHintingPreference(QFont::PreferNoHinting);
    return font;
}

int scaled(int pixels) {
    return static_cast<int>(std::lround(pixels * fontScale));
}

double contrast(const QColor& one, const QColor& other) {
    const double a = light(one) + 0.05;
    const double b = light(other) + 0.05;
    return a > b ? a / b : b / a;
}

QColor blend(const QColor& from, const QColor& to, double share) {
    const auto mix = [share](float a, float b) { return static_cast<float>(a + (b - a) * share); };
    return QColor::fromRgbF(mix(from.redF(), to.redF()), mix(from.greenF(), to.greenF()),
                            mix(from.blueF(), to.blueF()));
}

}  // namespace mellow::app

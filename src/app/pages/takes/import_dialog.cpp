// Offered are the ports of controllers, and the ports that instruments listen to; any other can be typed. A
// track that is drawn expression from elsewhere plays through a controller's port, and so moves its chains.
#include "app/pages/takes/import_dialog.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <set>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/takes/take.h"

namespace mellow::app {

namespace {

enum Column { trackColumn, holdsColumn, portColumn, columnCount };

/// "412 notes, CC 1, pitch bend".
QString contents(const smf::File& file, const smf::Track& track) {
    int notes = 0;
    std::set<QString> others;
    for (const smf::Event& event : track.events) {
        if (event.kind != smf::EventKind::channel) continue;
        const midi::Bytes body = file.body(event);
        if (midi::isNoteOn(body)) ++notes;
        switch (midi::kindOf(body)) {
            case midi::controlChange:
                others.insert(QStringLiteral("CC %1").arg(body[1]));
                break;
            case midi::pitchBend:
                others.insert(ImportDialog::tr("bend"));
                break;
            case midi::channelPressure:
                others.insert(ImportDialog::tr("pressure"));
                break;
            case midi::programChange:
                others.insert(ImportDialog::tr("program"));
                break;
            default:
                break;
        }
    }
    QStringList parts;
    if (notes > 0) parts << ImportDialog::tr("%n note(s)", nullptr, notes);
    for (const QString& other : others) parts << other;
    return parts.join(QStringLiteral(", "));
}

}  // namespace

ImportDialog::ImportDialog(Workspace& workspace, smf::File file, const QString& name, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      file_(std::move(file)),
      name_(new QLineEdit(name)),
      table_(new QTableWidget),
      import_(new QPushButton(tr("Import"))) {
    setObjectName(QStringLiteral("importDialog"));
    setWindowTitle(tr("Import a take"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(16), scaled(16), scaled(16));
    column->setSpacing(scaled(8));
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(tr("Name")));
    name_->setObjectName(QStringLiteral("importName"));
    name_->setAccessibleName(tr("Name of the take"));
    row->addWidget(name_, 1);
    column->addLayout(row);
    auto* about = new QLabel(
        tr("Each track plays as if it came in through a port. Tempo, metre and markers are kept."));
    about->setProperty("role", "help");
    about->setWordWrap(true);
    column->addWidget(about);
    table_->setObjectName(QStringLiteral("importTable"));
    column->addWidget(table_, 1);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch(1);
    import_->setObjectName(QStringLiteral("importMake"));
    import_->setDefault(true);
    auto* leave = new QPushButton(tr("Cancel"));
    buttons->addWidget(import_);
    buttons->addWidget(leave);
    column->addLayout(buttons);
    connect(import_, &QPushButton::clicked, this, &QDialog::accept);
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    fill();
    resize(scaled(640), scaled(420));
}

QStringList ImportDialog::offers() const {
    QStringList ports;
    const auto offer = [&ports](const std::string& port) {
        const QString name = toQt(port);
        if (port != anyPort && !ports.contains(name)) ports << name;
    };
    offer(std::string(io::practiceKeysPort));
    const Ensemble& ensemble = workspace_.document.ensemble();
    for (const Controller& controller : ensemble.controllers) offer(controller.port);
    for (const Instrument& instrument : ensemble.instruments) offer(instrument.input.port);
    return ports;
}

void ImportDialog::fill() {
    table_->setColumnCount(columnCount);
    table_->setHorizontalHeaderLabels({tr("Track"), tr("Holds"), tr("Plays through")});
    table_->verticalHeader()->hide();
    table_->setSelectionMode(QAbstractItemView::NoSelection);
    table_->horizontalHeader()->setSectionResizeMode(holdsColumn, QHeaderView::Stretch);
    table_->horizontalHeader()->setSectionResizeMode(trackColumn, QHeaderView::ResizeToContents);
    table_->setColumnWidth(portColumn, scaled(190));
    const QStringList ports = offers();
    const auto tracks = tracksOf(file_);
    for (std::size_t track = 0; track < tracks.size(); ++track) {
        if (!tracks[track].plays) continue;
        const int row = table_->rowCount();
        table_->insertRow(row);
        tracks_.push_back(track);
        const QString name =
            tracks[track].name.empty() ? tr("Track %1").arg(track + 1) : nameToShow(tracks[track].name);
        auto* title = new QTableWidgetItem(name);
        title->setFlags(Qt::ItemIsEnabled);
        auto* holds = new QTableWidgetItem(contents(file_, file_.tracks[track]));
        holds->setFlags(Qt::ItemIsEnabled);
        table_->setItem(row, trackColumn, title);
        table_->setItem(row, holdsColumn, holds);
        auto* choice = new QComboBox;
        choice->setEditable(true);
        choice->setAccessibleName(tr("Port of %1").arg(name));
        choice->addItem(tr("left out"), QString());
        for (const QString& port : ports) choice->addItem(port, port);
        // A track that is called like a port comes from there.
        const int same = choice->findData(toQt(tracks[track].name));
        choice->setCurrentIndex(same > 0 ? same : 1);
        table_->setCellWidget(row, portColumn, choice);
    }
    import_->setEnabled(!tracks_.empty());
}

void ImportDialog::setPort(int row, const std::string& port) {
    auto* choice = static_cast<QComboBox*>(table_->cellWidget(row, portColumn));
    const int known = choice->findData(toQt(port));
    known >= 0 ? choice->setCurrentIndex(known) : choice->setEditText(toQt(port));
}

Take ImportDialog::take() const {
    smf::File kept = file_;
    std::vector<std::string> ports;
    for (std::size_t row = 0; row < tracks_.size(); ++row) {
        const auto* choice =
            static_cast<const QComboBox*>(table_->cellWidget(static_cast<int>(row), portColumn));
        const QString text = choice->currentText().trimmed();
        const bool isOut = choice->currentIndex() == 0 && text == choice->itemText(0);
        if (!isOut && !text.isEmpty()) {
            ports.push_back(text.toStdString());
            continue;
        }
        // Its tempo and markers stay.
        auto& events = kept.tracks[tracks_[row]].events;
        std::erase_if(events, [](const smf::Event& event) { return event.kind != smf::EventKind::meta; });
    }
    return takeFrom(kept, [&ports](const std::string&, std::size_t place) {
        return place < ports.size() ? ports[place] : std::string(io::practiceKeysPort);
    });
}

}  // namespace mellow::app

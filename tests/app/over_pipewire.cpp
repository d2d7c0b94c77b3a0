// The real window over a real PipeWire: Gear says whether the practice rack is heard, as it changes.
#include <QLabel>

#include "app/pages/gear/port_details.h"
#include "support/pipewire.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;

namespace {

constexpr int patience = 20'000;  // ms

}  // namespace

class OverPipeWireTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

 private slots:
    void initTestCase() { qputenv("XDG_RUNTIME_DIR", folder_.path().toUtf8()); }

    /// Speakers that are switched on after the program, and off, and on again.
    void gearSaysWhetherTheRackIsHeard() {
        const test::PipeWireServer server;
        Live::Options options = test::alone();
        options.soundCard = true;
        test::Window window(options);
        window->live().ports().setSound("pipewire");
        window->selection().go(GearPlace{false, std::string(io::practiceRackPort)});
        const auto says = [&window](const char* words) {
            const auto labels = window->findChild<PortDetails*>()->findChildren<QLabel*>();
            return std::any_of(labels.begin(), labels.end(), [words](const QLabel* label) {
                return label->isVisible() && label->text().contains(QLatin1String(words));
            });
        };
        const char* const nowhere = "silent, PipeWire has nowhere for sound to go yet";
        QTRY_VERIFY_WITH_TIMEOUT(says(nowhere), patience);
        QVERIFY(test::makePlaceForSound());
        QTRY_VERIFY_WITH_TIMEOUT(says("heard through PipeWire"), patience);
        QVERIFY(!says(nowhere));
        QVERIFY(test::takePlaceForSoundAway());
        QTRY_VERIFY_WITH_TIMEOUT(says(nowhere), patience);
        QVERIFY(test::makePlaceForSound());
        QTRY_VERIFY_WITH_TIMEOUT(says("heard through PipeWire"), patience);
    }
};

QTEST_MAIN(OverPipeWireTest)
#include "over_pipewire.moc"

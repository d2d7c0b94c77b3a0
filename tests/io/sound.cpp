// Sound on its way: what comes in through JACK is heard frame by frame, each at its place; the practice rack
// is heard as it renders; who listens may come and go.
#include <QtTest>
#include <cmath>
#include <thread>

#include "core/text/numbers.h"
#include "io/playing/handed_over.h"
#include "io/ports/jack_inputs.h"
#include "io/ports/jack_ports.h"
#include "io/ports/patchbay.h"
#include "io/sound/frame_tap.h"
#include "io/sound/level_meter.h"
#include "io/sound/practice_rack.h"
#include "support/jack.h"

using namespace mellow;

namespace {

/// A client with two outputs: each frame of the left says how many went before it, the right is still.
class Sounding {
 public:
    explicit Sounding(const std::string& server) {
        client_ =
            jack_client_open("sounding", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                             nullptr, server.c_str());
        if (client_ == nullptr) qFatal("no client on the test's JACK server");
        for (std::size_t i = 0; i < 2; ++i)
            ports_[i] = jack_port_register(client_, i == 0 ? "left" : "right", JACK_DEFAULT_AUDIO_TYPE,
                                           JackPortIsOutput, 0);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) { return static_cast<Sounding*>(self)->process(frames); },
            this);
        jack_activate(client_);
    }
    ~Sounding() { jack_client_close(client_); }
    /// One in 65,536ths a frame, round and round, so that a float holds each exactly.
    static float at(std::uint32_t frame) { return static_cast<float>(frame % 65536U) / 65536.0F; }

 private:
    int process(jack_nframes_t frames) {
        auto* left = static_cast<float*>(jack_port_get_buffer(ports_[0], frames));
        auto* right = static_cast<float*>(jack_port_get_buffer(ports_[1], frames));
        for (jack_nframes_t i = 0; i < frames; ++i) left[i] = at(frame_++);
        std::fill_n(right, frames, -0.5F);
        return 0;
    }

    jack_client_t* client_;
    std::array<jack_port_t*, 2> ports_{};
    std::uint32_t frame_ = 0;
};

/// Our side: a client with MIDI ports and audio inputs, driven by the server.
struct Listening {
    io::Player player;
    io::Patchbay patchbay{player};
    io::JackClient client;
    io::JackPorts ports{client};
    io::JackInputs inputs{client};

    explicit Listening(const std::string& server) : client(server) {
        patchbay.add(ports);
        if (!client.start(patchbay)) qFatal("Mellow Lever does not start on the test's server");
    }
    [[nodiscard]] bool has(const std::string& port) const {
        return jack_port_by_name(client.client(), (client.name() + ":" + port).c_str()) != nullptr;
    }
};

}  // namespace

class SoundTest : public QObject {
    Q_OBJECT

    std::unique_ptr<test::JackServer> server_;

 private slots:
    void initTestCase() { server_ = std::make_unique<test::JackServer>("mellow-lever-test"); }
    void cleanupTestCase() { server_.reset(); }

    void eachFrameIsHeardAtItsPlace() {
        Listening here(server_->name());
        Sounding there(server_->name());
        QVERIFY(!here.has("sound 1"));
        QVERIFY(static_cast<bool>(here.inputs.want(2)));
        QVERIFY(here.has("sound 1"));
        const auto sources = here.inputs.sources();
        QVERIFY(std::find(sources.begin(), sources.end(), "sounding:left") != sources.end());
        QVERIFY(static_cast<bool>(here.inputs.connect(0, "sounding:left")));
        QVERIFY(static_cast<bool>(here.inputs.connect(1, "sounding:right")));
        QCOMPARE(here.inputs.connected(0), std::vector<std::string>{"sounding:left"});
        auto tap = std::make_shared<io::FrameTap>(std::size_t{1} << 18);
        auto meter = std::make_shared<io::LevelMeter>();
        here.inputs.frames().add(tap);
        here.inputs.frames().add(meter);
        std::vector<io::FrameTap::Frame> heard;
        const auto hear = [&] {
            tap->drain([&heard](const io::FrameTap::Frame& frame) {
                // What came before the connection carried anything is silence on both sides.
                if (!heard.empty() || frame.right != 0) heard.push_back(frame);
            });
            return heard.size() > 24000;
        };
        QVERIFY(QTest::qWaitFor(hear, 20000));
        QCOMPARE(tap->lost(), std::uint64_t{0});
        for (std::size_t i = 1; i < heard.size(); ++i) {
            QCOMPARE(heard[i].place, heard[i - 1].place + 1);
            const auto before = static_cast<std::uint32_t>(std::lround(heard[i - 1].left * 65536));
            QCOMPARE(heard[i].left, Sounding::at(before + 1));
            QCOMPARE(heard[i].right, -0.5F);
        }
        QCOMPARE(meter->take()[1], 0.5F);
        // Who has left hears no more.
        here.inputs.frames().remove(*tap);
        QTRY_COMPARE((here.inputs.frames().tend(), tap.use_count()), 1L);
    }

    void oneInputIsHeardOnBothChannels() {
        Listening here(server_->name());
        Sounding there(server_->name());
        QVERIFY(static_cast<bool>(here.inputs.want(1)));
        QVERIFY(here.has("sound"));
        QVERIFY(static_cast<bool>(here.inputs.connect(0, "sounding:right")));
        auto meter = std::make_shared<io::LevelMeter>();
        here.inputs.frames().add(meter);
        QVERIFY(QTest::qWaitFor([&] { return meter->take() == std::array<float, 2>{0.5F, 0.5F}; }, 20000));
        // Another source takes the place of the one before.
        QVERIFY(static_cast<bool>(here.inputs.connect(0, "sounding:left")));
        QCOMPARE(here.inputs.connected(0), std::vector<std::string>{"sounding:left"});
        QVERIFY(static_cast<bool>(here.inputs.want(0)));
        QVERIFY(!here.has("sound"));
    }

    void whatCannotBeHeardIsSaid() {
        io::JackClient nowhere("mellow-no-such-server");
        io::JackInputs none(nowhere);
        QVERIFY(none.want(0));
        QCOMPARE(none.want(2).problem().sentence(),
                 std::string("JACK: no server answers, so nothing can be heard; start JACK or PipeWire"));
        QVERIFY(!none.connect(0, "sounding:left"));
        QVERIFY(none.sources().empty());
        Listening here(server_->name());
        QVERIFY(!here.inputs.connect(0, "sounding:left"));  // it is not open
        QVERIFY(static_cast<bool>(here.inputs.want(1)));
        const auto wrong = here.inputs.connect(0, "nobody:there");
        QVERIFY(!wrong);
        QVERIFY(wrong.problem().sentence().find("nobody:there") != std::string::npos);
    }

    /// What was wished for while no server was there is made when one is.
    void inputsComeWithTheServer() {
        io::Player player;
        io::Patchbay patchbay(player);
        io::JackClient client(server_->name());
        io::JackPorts ports(client);
        io::JackInputs inputs(client);
        patchbay.add(ports);
        QVERIFY(!inputs.want(2));
        QVERIFY(static_cast<bool>(client.start(patchbay)));
        QVERIFY(!inputs.problem());
        QVERIFY(jack_port_by_name(client.client(), (client.name() + ":sound 2").c_str()) != nullptr);
    }

    void theRackIsHeardAsItRenders() {
        io::RackOptions options;
        options.soundCard = false;
        options.ownThread = false;
        auto rack = io::PracticeRack::open(options);
        QVERIFY(static_cast<bool>(rack));
        auto tap = std::make_shared<io::FrameTap>(std::size_t{1} << 16);
        auto meter = std::make_shared<io::LevelMeter>();
        (*rack)->frames().add(tap);
        (*rack)->frames().add(meter);
        (*rack)->push(midi::make(0x90, 0, 60, 100));
        std::vector<float> left(10000), right(10000);
        for (std::size_t at = 0; at < left.size(); at += 1000) (*rack)->render(&left[at], &right[at], 1000);
        std::size_t at = 0;
        bool same = true;
        float loudest = 0;
        tap->drain([&](const io::FrameTap::Frame& frame) {
            same = same && at < left.size() && frame.place == static_cast<std::int64_t>(at) &&
                   frame.left == left[at] && frame.right == right[at];
            loudest = std::max(loudest, std::abs(frame.left));
            ++at;
        });
        QCOMPARE(at, left.size());
        QVERIFY(same);
        QVERIFY(loudest > 0.01F);
        QCOMPARE(meter->take()[0], loudest);
        QCOMPARE(meter->take()[0], 0.0F);
    }

    void aTapThatIsReadTooLateSaysWhatItLost() {
        io::FrameTap tap(16);
        const std::vector<float> block(40, 0.25F);
        tap.hear({100, block, block});
        std::size_t count = 0;
        tap.drain([&count](const io::FrameTap::Frame& frame) {
            QCOMPARE(frame.place, static_cast<std::int64_t>(100 + count));
            ++count;
        });
        QVERIFY(count > 0 && count < 40);
        QCOMPARE(tap.lost(), std::uint64_t{40 - count});
        tap.hear({140, std::span(block).first(1), std::span(block).first(1)});
        tap.drain([](const io::FrameTap::Frame& frame) { QCOMPARE(frame.place, std::int64_t{140}); });
    }

    /// No list is freed that the other side may still work on, and all are in the end.
    void listsAreHandedOverWhole() {
        struct Counted {
            std::atomic<int>* alive;
            int number;
            Counted(std::atomic<int>* all, int which) : alive(all), number(which) { ++*alive; }
            ~Counted() {
                number = -1;
                --*alive;
            }
            Counted(const Counted&) = delete;
            Counted& operator=(const Counted&) = delete;
        };
        std::atomic<int> alive{0};
        std::atomic<bool> stop{false};
        std::atomic<int> wrong{0};
        {
            io::HandedOver<Counted> lists;
            QVERIFY(lists.take() == nullptr);
            lists.hand(std::make_unique<Counted>(&alive, 0));
            std::thread plays([&] {
                int last = 0;
                while (!stop) {
                    const Counted* list = lists.take();
                    for (int look = 0; look < 50; ++look) {
                        if (list->number < last) ++wrong;
                    }
                    last = list->number;
                }
            });
            for (int number = 1; number <= 20000; ++number) {
                lists.hand(std::make_unique<Counted>(&alive, number));
                lists.free();
            }
            while (!lists.isTaken()) std::this_thread::yield();
            lists.free();
            QCOMPARE(lists.all().size(), std::size_t{1});
            QCOMPARE(lists.newest().number, 20000);
            stop = true;
            plays.join();
            QCOMPARE(alive.load(), 1);
            lists.clear();
            QVERIFY(lists.empty() && lists.take() == nullptr);
        }
        QCOMPARE(wrong.load(), 0);
        QCOMPARE(alive.load(), 0);
    }
};

QTEST_GUILESS_MAIN(SoundTest)
#include "sound.moc"

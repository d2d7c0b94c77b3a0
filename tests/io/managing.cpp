// The session protocol, from the client's side, against a manager that keeps what it hears.
#include "io/managing/session_manager.h"

#include <QtTest>
#include <mutex>

#include "support/manager.h"

using namespace mellow;
using io::SessionManager;

namespace {

/// A client that keeps what it is called.
struct Client {
    std::mutex mutex;
    std::vector<SessionManager::Call> calls;
    std::unique_ptr<SessionManager> manager;

    explicit Client(const std::string& url) {
        auto made = SessionManager::at(url, [this](const SessionManager::Call& call) {
            const std::lock_guard lock(mutex);
            calls.push_back(call);
        });
        if (!made) qFatal("%s", made.problem().sentence().c_str());
        manager = std::move(*made);
    }
    template<class What>
    std::vector<What> heard() {
        const std::lock_guard lock(mutex);
        std::vector<What> found;
        for (const SessionManager::Call& each : calls) {
            if (const auto* one = std::get_if<What>(&each)) found.push_back(*one);
        }
        return found;
    }
};

}  // namespace

class ManagingTest : public QObject {
    Q_OBJECT

 private slots:
    void announcesItself() {
        test::Manager manager;
        Client client(manager.url());
        client.manager->announce("Mellow Lever", "mellow-lever");
        QTRY_COMPARE(manager.count("/nsm/server/announce"), std::size_t{1});
        const auto words = manager.heard("/nsm/server/announce").front().words;
        QCOMPARE(words.size(), std::size_t{6});
        QCOMPARE(words[0], std::string("Mellow Lever"));
        QCOMPARE(words[1], std::string(":dirty:optional-gui:"));
        QCOMPARE(words[2], std::string("mellow-lever"));
        QCOMPARE(words[3], std::string("1"));
        QCOMPARE(words[5], std::to_string(QCoreApplication::applicationPid()));
        manager.welcome();
        QTRY_COMPARE(client.heard<SessionManager::Welcome>().size(), std::size_t{1});
        QCOMPARE(client.heard<SessionManager::Welcome>().front().manager, std::string("The test's manager"));
    }

    void isToldWhatToDo() {
        test::Manager manager;
        Client client(manager.url());
        client.manager->announce("Mellow Lever", "mellow-lever");
        QTRY_COMPARE(manager.count("/nsm/server/announce"), std::size_t{1});
        manager.open("/tmp/piece/lever.nABC", "Barometer falls", "Mellow Lever.nABC");
        QTRY_COMPARE(client.heard<SessionManager::Open>().size(), std::size_t{1});
        const auto asked = client.heard<SessionManager::Open>().front();
        QCOMPARE(asked.path, std::string("/tmp/piece/lever.nABC"));
        QCOMPARE(asked.sessionName, std::string("Barometer falls"));
        QCOMPARE(asked.clientId, std::string("Mellow Lever.nABC"));
        manager.call("/nsm/client/save");
        manager.call("/nsm/client/hide_optional_gui");
        manager.call("/nsm/client/show_optional_gui");
        QTRY_COMPARE(client.heard<SessionManager::Save>().size(), std::size_t{1});
        QTRY_COMPARE(client.heard<SessionManager::Hide>().size(), std::size_t{1});
        QTRY_COMPARE(client.heard<SessionManager::Show>().size(), std::size_t{1});
    }

    void answersByThePathOfTheCall() {
        test::Manager manager;
        Client client(manager.url());
        client.manager->done(SessionManager::Open{});
        QTRY_VERIFY(manager.answered("/reply", "/nsm/client/open"));
        client.manager->done(SessionManager::Save{});
        QTRY_VERIFY(manager.answered("/reply", "/nsm/client/save"));
        client.manager->failed(SessionManager::Open{}, SessionManager::Failure::badProject, "no ensemble");
        QTRY_VERIFY(manager.answered("/error", "/nsm/client/open"));
        const auto refused = manager.heard("/error").front().words;
        QCOMPARE(refused, (std::vector<std::string>{"/nsm/client/open", "-9", "no ensemble"}));
        client.manager->tellUnsaved(true);
        client.manager->tellUnsaved(false);
        client.manager->tellShown(true);
        client.manager->tellShown(false);
        for (const char* path : {"/nsm/client/is_dirty", "/nsm/client/is_clean", "/nsm/client/gui_is_shown",
                                 "/nsm/client/gui_is_hidden"})
            QTRY_COMPARE(manager.count(path), std::size_t{1});
    }

    void hearsWhyItIsNotTakenIn() {
        test::Manager manager;
        Client client(manager.url());
        client.manager->announce("Mellow Lever", "mellow-lever");
        QTRY_COMPARE(manager.count("/nsm/server/announce"), std::size_t{1});
        manager.refuse("too old");
        QTRY_COMPARE(client.heard<SessionManager::Refusal>().size(), std::size_t{1});
        QCOMPARE(client.heard<SessionManager::Refusal>().front().reason, std::string("too old"));
    }

    /// Words of other types, unknown paths, errors about other things: none is taken for a call.
    void passesOverWhatItDoesNotKnow() {
        test::Manager manager;
        Client client(manager.url());
        client.manager->announce("Mellow Lever", "mellow-lever");
        QTRY_COMPARE(manager.count("/nsm/server/announce"), std::size_t{1});
        manager.send("/nsm/client/open", "si", "/tmp/piece", 3);
        manager.send("/nsm/client/save", "i", 1);
        manager.send("/nsm/client/explode", "");
        manager.send("/error", "sis", "/nsm/server/other", -1, "no");
        manager.send("/reply", "ss", "/nsm/server/other", "yes");
        manager.call("/nsm/client/show_optional_gui");
        QTRY_COMPARE(client.heard<SessionManager::Show>().size(), std::size_t{1});
        const std::lock_guard lock(client.mutex);
        QCOMPARE(client.calls.size(), std::size_t{1});
    }

    void noticesThatTheManagerIsGone() {
        test::Manager manager;
        Client client(manager.url());
        QVERIFY(client.manager->isThere());
        manager.end();
        QTRY_VERIFY(!client.manager->isThere());
        // What is still said to it goes nowhere.
        client.manager->tellUnsaved(true);
        client.manager->done(SessionManager::Save{});
    }

    void refusesWhatIsNoAddress() {
        for (const char* url : {"", "nonsense", "osc.tcp://127.0.0.1:9/", "http://127.0.0.1/"}) {
            const auto made = SessionManager::at(url, [](const SessionManager::Call&) {});
            QVERIFY2(!made, url);
            QVERIFY(made.problem().sentence().find("NSM_URL") != std::string::npos);
        }
    }
};

QTEST_GUILESS_MAIN(ManagingTest)
#include "managing.moc"

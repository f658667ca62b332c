// Keys of an agent: files, what they let their holders do, and how they end. Against agents on loopback.
#include "probe/account.h"
#include "probe/agent_keys.h"
#include "probe/key.h"
#include "probe/key_requests.h"
#include "support/agents.h"

#include <QProcess>
#include <QSysInfo>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <array>
#include <fstream>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

using namespace metrodos;
using namespace metrodos::probe;
using namespace std::chrono_literals;
namespace fs = std::filesystem;
using metrodos::probe::Key;

namespace {

void write(const fs::path& file, const std::string& text, mode_t mode = 0600) {
    std::ofstream(file) << text;
    ::chmod(file.c_str(), mode);
}

std::string why(const quantity::Result<KeptKey>& read) {
    return read ? "" : read.error().sentence();
}

// An agent with keys on disk.
struct KeepingAgent {
    QTemporaryDir folder;
    fs::path file = folder.filePath("shared").toStdString();
    fs::path own = folder.filePath("own").toStdString();
    Key shared = Key::generate();
    std::shared_ptr<AgentKeys> keys;
    std::unique_ptr<Agent> agent;
    std::string address;

    KeepingAgent() {
        if (!shared.save(file)) qFatal("no key could be written");
        keys = AgentKeys::open({file, own}).value();
        AgentSettings settings{"127.0.0.1:0", "cellar box", keys->ring(), {}};
        settings.kept = keys;
        agent = Agent::start(settings, [](const PeerFilter& filter) {
                    return makePerformer("cellar box", filter);
                }).value();
        address = agent->address().text();
    }
    [[nodiscard]] bool opens(const Key& key) const { return EndpointLink::connect(address, key).has_value(); }
    [[nodiscard]] fs::path fileOf(const Key& key) const {
        return own / (credentialOf(key).identity.substr(identityPrefix.size()) + ".key");
    }
};

// A secret that is searched for is not written down as it is, or it would be found in this place.
class Masked {
  public:
    Masked(const unsigned char* bytes, std::size_t count)
        : m_bytes(count) {
        for (std::size_t i = 0; i < count; ++i)
            m_bytes[i] = bytes[i] ^ mask;
    }
    // How often it stands in the memory of this process that can be written to.
    [[nodiscard]] int places() const {
        int found = 0;
        std::ifstream maps("/proc/self/maps");
        std::ifstream memory("/proc/self/mem", std::ios::binary);
        for (std::string line; std::getline(maps, line);) {
            unsigned long long from = 0;
            unsigned long long to = 0;
            std::array<char, 5> mode{};
            if (std::sscanf(line.c_str(), "%llx-%llx %4s", &from, &to, mode.data()) != 3) continue;
            constexpr unsigned long long shadow = 1ULL << 30U; // of a sanitizer, which holds no bytes of ours
            if (mode[0] != 'r' || mode[1] != 'w' || line.find("[v") != std::string::npos ||
                to - from > shadow)
                continue;
            std::vector<char> bytes(to - from);
            memory.clear();
            memory.seekg(static_cast<std::streamoff>(from));
            if (!memory.read(bytes.data(), static_cast<std::streamsize>(bytes.size()))) continue;
            found += countIn(bytes);
            std::fill(bytes.begin(), bytes.end(), '\0'); // else the next look finds it here
        }
        return found;
    }

  private:
    static constexpr unsigned char mask = 0x5a;
    [[nodiscard]] int countIn(const std::vector<char>& bytes) const {
        int found = 0;
        for (std::size_t at = 0; at + m_bytes.size() <= bytes.size(); ++at) {
            std::size_t same = 0;
            while (same < m_bytes.size() &&
                   (static_cast<unsigned char>(bytes[at + same]) ^ mask) == m_bytes[same])
                ++same;
            if (same == m_bytes.size()) ++found;
        }
        return found;
    }
    std::vector<unsigned char> m_bytes;
};

// A sanitizer keeps copies and shadows of its own, and looks at every byte that the search does.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr bool isSanitized = true;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
constexpr bool isSanitized = true;
#else
constexpr bool isSanitized = false;
#endif
#else
constexpr bool isSanitized = false;
#endif

} // namespace

class TestAgentKeys : public QObject {
    Q_OBJECT

  private slots:
    void initTestCase() { ignoreBrokenPipes(); }

    void aKeyFileSaysWhatItIsFor() {
        const QTemporaryDir folder;
        const fs::path file = folder.filePath("key").toStdString();
        const Key key = Key::generate();
        QVERIFY(saveKeyFile({key, Right::takePart, "anna@laptop\nright: command"}, file).has_value());
        const auto read = loadKeyFile(file).value();
        QVERIFY(read.key == key && read.right == Right::takePart);
        QCOMPARE(read.holder, std::string("anna@laptop right: command"));
        // One that was written by hand, in the order that came to mind.
        const fs::path typed = folder.filePath("typed").toStdString();
        write(typed, "\n" + key.text() + "\r\n\nfor: the cellar\nright: command\n");
        QCOMPARE(why(loadKeyFile(typed)), std::string());
        QVERIFY(loadKeyFile(typed)->right == Right::command && loadKeyFile(typed)->holder == "the cellar");
        // What is not understood is not taken for the mightier right.
        for (const char* line : {"right: everything", "right:take part", "role: take part"}) {
            write(typed, key.text() + "\n" + line + "\n");
            QVERIFY2(why(loadKeyFile(typed)).find("not known") != std::string::npos, line);
        }
    }
    void aKeyFileBelongsToItsUser() {
        const QTemporaryDir folder;
        const fs::path file = folder.filePath("key").toStdString();
        const std::string text = Key::generate().text() + "\n";
        for (const mode_t mode : {0640, 0604, 0620, 0602, 0601, 0610}) {
            write(file, text, mode);
            QVERIFY2(why(loadKeyFile(file)).find("chmod 600") != std::string::npos,
                     qPrintable(QString::number(mode, 8)));
        }
        for (const mode_t mode : {0600, 0400}) {
            write(file, text, 0600);
            ::chmod(file.c_str(), mode);
            QCOMPARE(why(loadKeyFile(file)), std::string());
            fs::remove(file);
        }
        if (::geteuid() == 0) { // only root can give a file away
            write(file, text);
            QCOMPARE(::chown(file.c_str(), 12345, 12345), 0);
            QVERIFY(why(loadKeyFile(file)).find("another user") != std::string::npos);
        }
        // Neither a folder nor a pipe that nobody writes to is waited for.
        QVERIFY(why(loadKeyFile(folder.path().toStdString())).find("no file") != std::string::npos);
        const fs::path pipe = folder.filePath("pipe").toStdString();
        QCOMPARE(::mkfifo(pipe.c_str(), 0600), 0);
        QVERIFY(why(loadKeyFile(pipe)).find("no file") != std::string::npos);
    }
    // systemd 252 hands credentials over as root's, mode 0440, with an access list for the service's user.
    void theServiceManagersFilesMayHaveAGroup() {
        const QTemporaryDir folder;
        const QTemporaryDir elsewhere;
        const std::string text = Key::generate().text();
        const fs::path given = folder.filePath("key").toStdString();
        const fs::path other = elsewhere.filePath("key").toStdString();
        write(given, text, 0440);
        write(other, text, 0440);
        QVERIFY(!loadKeyFile(given).has_value());
        qputenv("CREDENTIALS_DIRECTORY", folder.path().toUtf8());
        QCOMPARE(why(loadKeyFile(given)), std::string());
        QVERIFY(!loadKeyFile(other).has_value());
        ::chmod(given.c_str(), 0460); // a group that writes is another matter
        QVERIFY(!loadKeyFile(given).has_value());
        ::chmod(given.c_str(), 0444);
        QVERIFY(!loadKeyFile(given).has_value());
        qunsetenv("CREDENTIALS_DIRECTORY");
    }

    void whoTakesPartCommandsNothing() {
        const KeepingAgent there;
        auto commander = EndpointLink::connect(there.address, there.shared).value();
        const auto part = askForKey(commander, Right::takePart, "schedule of the attic");
        QVERIFY2(part.has_value(), part ? "" : part.error().sentence().c_str());
        const auto kept = loadKeyFile(there.fileOf(*part)).value();
        QVERIFY(kept.right == Right::takePart);
        QCOMPARE(kept.holder, std::string("schedule of the attic"));
        auto guest = EndpointLink::connect(there.address, *part).value();
        for (const nlohmann::json& order :
             {nlohmann::json{{"type", "facts"}}, nlohmann::json{{"type", "forget"}},
              nlohmann::json{{"type", "forget"}, {"identity", credentialOf(there.shared).identity}},
              nlohmann::json{{"type", "grant"}, {"right", "command"}, {"for", "me"}},
              nlohmann::json{{"type", "guest"}}, nlohmann::json{{"type", "schedule-list"}},
              nlohmann::json{{"type", "schedule-give"}}, nlohmann::json{{"type", "whatever"}}}) {
            const auto answer = guest.ask(order, "anything", 2s);
            QVERIFY2(!answer && answer.error().what.find("take part in runs only") != std::string::npos,
                     order.dump().c_str());
        }
        // A run with it works, both ways, and its clock is told.
        auto here = EndpointLink::here("here").value();
        benchmark::RunConfig config;
        config.seconds = 1;
        for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward}) {
            config.direction = direction;
            const auto run = conduct(here, guest, config, {}, {});
            QVERIFY2(run.has_value(), run ? "" : run.error().sentence().c_str());
            QVERIFY(run->goodput.bps() > 0);
        }
        QVERIFY(guest.ask({{"type", "clock"}}, "clock", 2s).has_value());
        // It is taken back by who may command, and its session ends.
        QVERIFY(askToForget(commander, credentialOf(*part).identity).has_value());
        QTRY_VERIFY(!guest.ask({{"type", "clock"}}, "clock", 500ms).has_value());
        QVERIFY(!there.opens(*part));
        QVERIFY(!askToForget(commander, credentialOf(*part).identity).has_value()); // it is gone already
        QVERIFY(!askToForget(commander, "metrodos 0123456789abcdef").has_value());
        QVERIFY(!askToForget(commander, "../shared").has_value());
        QVERIFY(fs::exists(there.file));
    }

    void anAgentsKeyOpensNoOther() {
        const KeepingAgent one;
        const KeepingAgent other;
        auto link = EndpointLink::connect(one.address, one.shared).value();
        const Key own = askForKey(link, Right::command, "anna").value();
        QVERIFY(one.opens(own) && !other.opens(own));
    }

    void theSharedKeyIsLeftForOneOfItsOwn() {
        KeepingAgent there;
        Key own;
        {
            auto link = EndpointLink::connect(there.address, there.shared).value();
            own = askForKey(link, Right::command, "anna@laptop").value();
            QVERIFY(there.opens(own) && there.opens(there.shared));
            QVERIFY(askToForget(link).has_value());
        }
        QVERIFY(there.opens(own) && !there.opens(there.shared));
        QVERIFY(fs::exists(there.file)); // it may be somebody else's
        // Nor after a restart.
        const auto again = AgentKeys::open({there.file, there.own}).value();
        QVERIFY(!again->ring()->rightOf(credentialOf(there.shared).identity));
        QVERIFY(!again->ring()->rightOf(sharedIdentity));
        QVERIFY(again->ring()->rightOf(credentialOf(own).identity) == std::optional(Right::command));
        QCOMPARE(again->ownKeys(), std::size_t(1));
    }

    void aKeyWhoseFileGoesEndsItsSessions() {
        const KeepingAgent there;
        auto link = EndpointLink::connect(there.address, there.shared).value();
        const Key own = askForKey(link, Right::command, "anna").value();
        auto session = EndpointLink::connect(there.address, own).value();
        QVERIFY(session.facts().has_value());
        fs::remove(there.fileOf(own));
        QTRY_VERIFY_WITH_TIMEOUT(!there.opens(own), 3000);
        QTRY_VERIFY_WITH_TIMEOUT(!session.facts().has_value(), 1000);
        QVERIFY(link.facts().has_value()); // of another key
        // One that others can read now is nobody's any more, and costs no other; mended, it opens again.
        const Key other = askForKey(link, Right::command, "berta").value();
        ::chmod(there.file.c_str(), 0644);
        QTRY_VERIFY_WITH_TIMEOUT(!there.opens(there.shared), 3000);
        QVERIFY(there.opens(other));
        ::chmod(there.file.c_str(), 0600);
        QTRY_VERIFY_WITH_TIMEOUT(there.opens(there.shared), 3000);
        // And a key that is put there is known without a restart.
        const Key added = Key::generate();
        QVERIFY(saveKeyFile({added, Right::takePart, "by hand"}, there.fileOf(added)).has_value());
        QTRY_VERIFY_WITH_TIMEOUT(there.opens(added), 3000);
    }

    void aRunEndsWithItsKey() {
        const KeepingAgent there;
        auto link = EndpointLink::connect(there.address, there.shared).value();
        const Key part = askForKey(link, Right::takePart, "a run").value();
        auto guest = EndpointLink::connect(there.address, part).value();
        auto here = EndpointLink::here("here").value();
        benchmark::RunConfig config;
        config.seconds = 20;
        QElapsedTimer timer;
        RunObserver observer;
        observer.started = [&](const benchmark::Run&) {
            timer.start();
            QVERIFY(askToForget(link, credentialOf(part).identity).has_value());
        };
        const auto run = conduct(here, guest, config, observer, {});
        QVERIFY(!run.has_value());
        QVERIFY2(timer.elapsed() < 2000, qPrintable(QString::number(timer.elapsed())));
    }

    void keysWithoutAFolderLiveAsLongAsTheAgent() {
        const auto keys = AgentKeys::ofKey(Key::generate());
        const Key made = keys->grant(Right::takePart, "x").value();
        QVERIFY(keys->ring()->rightOf(credentialOf(made).identity) == std::optional(Right::takePart));
        QVERIFY(keys->ring()->rightOf(sharedIdentity) == std::optional(Right::command));
        QVERIFY(!keys->forget(std::string(sharedIdentity))); // from a file, as far as it knows
        QVERIFY(keys->forget(credentialOf(made).identity).has_value());
        QVERIFY(!keys->ring()->rightOf(credentialOf(made).identity));
        for (std::size_t i = 0; i < PairStore::maxKeys; ++i)
            QVERIFY(keys->grant(Right::takePart, "x").has_value());
        QVERIFY(keys->grant(Right::takePart, "x").error().sentence().find("200 keys") != std::string::npos);
    }

    void aFolderHoldsAsManyKeysAndNoMore() {
        const QTemporaryDir folder;
        const PairStore store(folder.path().toStdString());
        const auto keep = [&] {
            KeptKey kept;
            kept.key = Key::generate();
            return store.keep(kept);
        };
        for (std::size_t i = 0; i < PairStore::maxKeys; ++i)
            QVERIFY(keep().has_value());
        QVERIFY(keep().error().sentence().find("200 keys") != std::string::npos);
        QCOMPARE(store.load().value().size(), PairStore::maxKeys);
    }

    void nothingOfAKeyStaysInMemory() {
        if (isSanitized) QSKIP("the memory of a sanitized program is not its own");
        // Found where it is, else the search proves nothing.
        auto bits = std::make_unique<std::array<std::uint8_t, 16>>();
        fillRandom(bits->data(), bits->size());
        const Masked masked(bits->data(), bits->size());
        QVERIFY(masked.places() >= 1);
        auto key = std::make_unique<Key>(*bits);
        const auto secret = std::make_unique<SecretBytes<unsigned char, 32>>(key->secret());
        const Masked maskedSecret(secret->data(), 32);
        QVERIFY(maskedSecret.places() >= 1);
        const_cast<SecretBytes<unsigned char, 32>&>(*secret) = {};
        OPENSSL_cleanse(bits->data(), bits->size());
        std::string text = key->text();
        const Masked maskedText(reinterpret_cast<const unsigned char*>(text.data()), text.size());
        QVERIFY(maskedText.places() >= 1);
        {
            KeepingAgent there;
            QVERIFY(saveKeyFile({*key, Right::command, "anna"}, there.fileOf(*key)).has_value() ||
                    fs::create_directories(there.own));
            if (!fs::exists(there.fileOf(*key)))
                QVERIFY(saveKeyFile({*key, Right::command, "anna"}, there.fileOf(*key)).has_value());
            QTRY_VERIFY_WITH_TIMEOUT(there.opens(*key), 3000);
            auto link = EndpointLink::connect(there.address, *key).value();
            QVERIFY(link.facts().has_value());
            QVERIFY(askToForget(link).has_value());
            QVERIFY(!there.opens(*key));
        }
        key.reset();
        wipe(text);
        QCOMPARE(masked.places(), 0);
        QCOMPARE(maskedSecret.places(), 0);
        QCOMPARE(maskedText.places(), 0);
    }
    void aKeyThatWasGrantedStaysNowhereElse() {
        if (isSanitized) QSKIP("the memory of a sanitized program is not its own");
        KeepingAgent there;
        std::optional<Masked> masked;
        {
            auto link = EndpointLink::connect(there.address, there.shared).value();
            auto key = std::make_unique<Key>(askForKey(link, Right::command, "anna").value());
            std::string text = key->text();
            masked.emplace(reinterpret_cast<const unsigned char*>(text.data()), text.size());
            QVERIFY(masked->places() >= 1);
            wipe(text);
        }
        QCOMPARE(masked->places(), 0); // neither in a message nor in a buffer of one
    }
    void theWrittenFormCanBeReadAgain() {
        for (int i = 0; i < 200; ++i) {
            const Key key = Key::generate();
            QCOMPARE(key.text().size(), std::size_t(31)); // 26 characters and 5 hyphens
            QVERIFY(Key::parse(key.text()).value() == key);
        }
        QVERIFY(!(Key::generate() == Key::generate()));
    }
    void readingForgivesHandCopies() {
        const Key key = Key::generate();
        std::string text = key.text();
        std::transform(text.begin(), text.end(), text.begin(),
                       [](char c) { return static_cast<char>(std::tolower(c)); });
        std::replace(text.begin(), text.end(), '0', 'o');
        std::replace(text.begin(), text.end(), '1', 'l');
        std::replace(text.begin(), text.end(), '-', ' ');
        QVERIFY(Key::parse(text + "\r\n").value() == key);
    }
    void refusesWhatIsNoKey() {
        const std::string good = Key::generate().text();
        for (const std::string& bad :
             {std::string(), std::string("hello"), good + "A", good.substr(1), good.substr(0, 30) + "Z",
              std::string("U") + good.substr(1), std::string(5000, 'A')})
            QVERIFY2(!Key::parse(bad), bad.c_str());
    }
    void whoAsksSaysWhoHeIs() {
        QProcess id;
        id.start("id", {"-un"});
        QVERIFY(id.waitForFinished());
        const QString account = QString::fromUtf8(id.readAllStandardOutput()).trimmed();
        QCOMPARE(QString::fromStdString(metrodos::probe::ownAccount()),
                 account + "@" + QSysInfo::machineHostName());
    }
    void filesAreKeptFromOthers() {
        QTemporaryDir folder;
        const std::string file = folder.filePath("key").toStdString();
        const Key key = Key::generate();
        QVERIFY(key.save(file).has_value());
        struct stat info {};
        QCOMPARE(::stat(file.c_str(), &info), 0);
        QCOMPARE(info.st_mode & 0777U, 0600U);
        QVERIFY(Key::load(file).value() == key);
        QVERIFY(!key.save(file)); // an existing file is left alone
        ::chmod(file.c_str(), 0644);
        QVERIFY(Key::load(file).error().sentence().find("chmod 600") != std::string::npos);
        QVERIFY(!Key::load(file + ".missing"));
        QVERIFY(!key.save(folder.filePath("no/such/folder/key").toStdString()));
    }
};

QTEST_GUILESS_MAIN(TestAgentKeys)
#include "test_agent_keys.moc"

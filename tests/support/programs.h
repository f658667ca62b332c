// Starts the project's programs from tests and reads what they say.
#pragma once

#include "support/paths.h"

#include <QElapsedTimer>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <nlohmann/json.hpp>
#include <string>

namespace metrodos::testing {

struct Outcome {
    int code = -1;
    std::string out;
    std::string err;
    /// What the program printed, as JSON; discarded when it is none.
    [[nodiscard]] nlohmann::json json() const { return nlohmann::json::parse(out, nullptr, false); }
    /// One line on stderr and no more: the way every refusal must look.
    [[nodiscard]] bool oneSentence() const {
        return !err.empty() && err.find('\n') == err.size() - 1 && err.find(". ") == std::string::npos &&
               err[err.size() - 2] == '.';
    }
};

inline Outcome run(const QString& program, const QStringList& arguments, int limit = 60'000) {
    QProcess process;
    process.start(program, arguments);
    if (!process.waitForFinished(limit)) {
        process.kill();
        process.waitForFinished();
        return {-99, "", "it hung"};
    }
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
            process.readAllStandardOutput().toStdString(), process.readAllStandardError().toStdString()};
}

/// All of a file; empty where it cannot be read.
inline QByteArray contents(const QString& file) {
    QFile f(file);
    return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
}

/// The folder of the programs, and a script of lab/.
inline QString programs() {
    return QString::fromStdString(programPath(""));
}
inline QString script(const std::string& name) {
    return QString::fromStdString(sourcePath("lab/" + name));
}
/// METRODOS_AGENT in the environment is another build of the agent, to be held to the same tests.
inline QString binary(const char* name) {
    const QString agent = qEnvironmentVariable("METRODOS_AGENT");
    if (!agent.isEmpty() && QLatin1String(name) == QLatin1String("metrodos-agent")) return agent;
    return QString::fromStdString(programPath(name));
}
inline Outcome cli(const QStringList& arguments, int limit = 60'000) {
    return run(binary("metrodos-cli"), arguments, limit);
}

/// A program that serves until this object goes; `ready` is its first line.
class Served {
  public:
    Served(const char* name, const QStringList& arguments) {
        process.start(binary(name), arguments);
        QElapsedTimer timer;
        timer.start();
        while (!process.canReadLine() && timer.elapsed() < 10'000 && process.state() != QProcess::NotRunning)
            process.waitForReadyRead(200);
        ready = nlohmann::json::parse(process.readLine().toStdString(), nullptr, false);
    }
    ~Served() {
        process.terminate();
        if (!process.waitForFinished(5000)) process.kill();
        process.waitForFinished();
    }
    QProcess process;
    nlohmann::json ready;
};

/// A folder with a key in it.
struct Workplace {
    QTemporaryDir folder;
    QString key = folder.filePath("key");
    Workplace() { cli({"key", "new", key}); }
    [[nodiscard]] QString path(const char* name) const { return folder.filePath(QLatin1String(name)); }
};

inline QString demoJob() {
    return QString::fromStdString(dataPath("demo/quarry-house.json"));
}

} // namespace metrodos::testing

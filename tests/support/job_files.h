// Job files of their own, in a folder that goes with the test.
#pragma once

#include "job/store.h"
#include "support/houses.h"

#include <QTemporaryDir>
#include <stdexcept>
#include <string>

namespace metrodos::testing {

class JobFiles {
  public:
    /// The name of a file that is not there yet.
    std::string fresh() { return m_folder.filePath(QString("job-%1.metrodos").arg(++m_count)).toStdString(); }
    std::string made(const job::Document& document = {wiredHouse(), {}}) {
        const std::string file = fresh();
        if (!job::Store::create(file, document)) throw std::runtime_error("cannot create " + file);
        return file;
    }

  private:
    QTemporaryDir m_folder;
    int m_count = 0;
};

} // namespace metrodos::testing

// How the judge does on the second simulation: the limiter after four runs, how honest its probabilities are,
// where following its suggestions leads and with how many tests, and how long a verdict takes.
#include "catalog/load.h"
#include "independent/follow.h"
#include "support/calibration.h"

#include <iostream>
#include <map>

int main(int argc, char** argv) {
    const int cases = argc > 1 ? std::atoi(argv[1]) : 1000;
    const bool wordy = argc > 2;
    const metrodos::catalog::Catalog catalog = metrodos::catalog::loadDefault().value();
    // One case in full.
    if (argc > 3) {
        independent::tell(independent::draw(9000 + static_cast<unsigned>(std::atoi(argv[3]))), catalog,
                          std::cout);
        return 0;
    }
    metrodos::testing::Calibration calibration;
    struct Fault {
        int all = 0;
        int afterFour = 0;
        int atEnd = 0;
        int under = 0;
    };
    std::map<std::string, Fault> faults;
    Fault sum;
    double tests = 0;
    double toTheEnd = 0; // tests of the suggestions and of the hand routine, until neither has another
    double byHand = 0;
    for (int i = 0; i < cases; ++i) {
        const independent::World world = independent::draw(9000 + static_cast<unsigned>(i));
        const independent::Judged j = independent::judge(world, catalog, 4);
        if (i % 5 == 0) {
            toTheEnd += independent::judge(world, catalog, 12).tests.size();
            byHand += independent::handRoutine(world);
        }
        Fault& fault = faults[j.fault];
        for (Fault* f : {&fault, &sum}) {
            ++f->all;
            f->afterFour += j.afterFour.right ? 1 : 0;
            f->atEnd += j.atEnd.right ? 1 : 0;
            f->under += j.afterFour.ofTruth < 0.02 ? 1 : 0;
        }
        tests += j.tests.size();
        calibration.add(j.afterFour.said, j.afterFour.right);
        if (wordy && (!j.atEnd.right || j.afterFour.ofTruth < 0.02)) {
            std::cout << "case " << i << ": " << j.fault << "; truth";
            for (const auto& t : j.truth)
                std::cout << ' ' << t;
            std::cout << " (" << j.afterFour.ofTruth << " after four); at first " << j.afterFour.first
                      << ", at last " << j.atEnd.first << "; tests";
            for (const auto& t : j.tests)
                std::cout << ' ' << t;
            std::cout << '\n';
        }
    }
    const double n = cases;
    std::cout << "after four runs: limiter named first " << sum.afterFour / n << ", under 2 % "
              << sum.under / n << " (wanted at most 0.02)\n"
              << "after at most four suggestions (" << tests / n << " made): named first " << sum.atEnd / n
              << " (wanted 0.90)\n";
    std::cout << "tests until none is suggested / tests of the hand routine: " << toTheEnd / byHand
              << " (wanted at most 0.5)\n";
    calibration.print(std::cout);
    std::cout << "expected calibration error " << calibration.error() << " (wanted at most 0.04)\n";
    for (const auto& [name, f] : faults)
        std::cout << "  " << name << ": " << f.all << " cases, first after four runs "
                  << static_cast<double>(f.afterFour) / f.all << ", at the end "
                  << static_cast<double>(f.atEnd) / f.all << ", under 2 % "
                  << static_cast<double>(f.under) / f.all << '\n';
    const std::vector<double> times = independent::timesOfVerdicts(catalog, 15);
    std::cout << "a verdict on 25 elements with 50 runs, next tests ranked: median "
              << times[times.size() / 2] << " ms, slowest " << times.back() << " (wanted 100 and 300)\n";
    return 0;
}

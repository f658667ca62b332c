#include "report/handover.h"

#include <algorithm>

namespace metrodos::report {

std::vector<const Chapter*> inOrder(const Document& whole, const house::House& house) {
    std::vector<const Chapter*> out;
    const auto add = [&](const Chapter& c) {
        if (std::find(out.begin(), out.end(), &c) == out.end()) out.push_back(&c);
    };
    for (const house::ChapterChoice& choice : house.chapters)
        for (const Chapter& c : whole.chapters)
            if (c.id == choice.id) add(c);
    for (const Chapter& c : whole.chapters)
        add(c);
    return out;
}

Document arranged(const Document& whole, const house::House& house) {
    Document out = whole;
    out.chapters.clear();
    for (const Chapter* c : inOrder(whole, house)) {
        const auto choice = std::find_if(house.chapters.begin(), house.chapters.end(),
                                         [&](const house::ChapterChoice& one) { return one.id == c->id; });
        if (choice != house.chapters.end() && choice->isLeftOut) continue;
        out.chapters.push_back(*c);
        if (choice != house.chapters.end()) out.chapters.back().note = choice->note;
    }
    return out;
}

} // namespace metrodos::report

#include "job/schema.h"

#include "catalog/load.h"
#include "job/survey_fields.h"
#include "quantity/text.h"

#include <fstream>
#include <nlohmann/json.hpp>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validation_results.hpp>
#include <valijson/validator.hpp>

namespace metrodos::job {

nlohmann::json completed(nlohmann::json schema) {
    if (!schema.is_object() || !schema.contains("definitions")) return schema;
    const nlohmann::json survey = surveySchemas();
    for (const auto& [definition, properties] : survey.items())
        for (const auto& [key, value] : properties.items())
            schema["definitions"][definition]["properties"][key] = value;
    return schema;
}

std::string schemaText() {
    const auto folder = catalog::dataFolder();
    if (!folder) return {};
    std::ifstream stream(*folder / "schema/job.json", std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

std::vector<quantity::Problem> schemaFaults(const nlohmann::json& value) {
    using valijson::adapters::NlohmannJsonAdapter;
    const auto folder = catalog::dataFolder();
    if (!folder) return {folder.error()};
    const auto file = *folder / "schema/job.json";
    std::ifstream stream(file);
    const nlohmann::json text = completed(nlohmann::json::parse(stream, nullptr, false));
    valijson::Schema schema;
    try {
        valijson::SchemaParser parser;
        const NlohmannJsonAdapter adapter(text);
        parser.populateSchema(adapter, schema);
    } catch (const std::exception&) {
        return {{"the schema of jobs cannot be read", file.string(), "install the program whole"}};
    }
    valijson::Validator validator;
    valijson::ValidationResults results;
    const NlohmannJsonAdapter target(value);
    if (validator.validate(schema, target, &results)) return {};
    std::vector<quantity::Problem> faults;
    valijson::ValidationResults::Error error;
    while (results.popError(error) && faults.size() < 20) {
        std::string where;
        for (std::string part : error.context) {
            if (part == "<root>") continue;
            if (part.size() > 2 && part.front() == '[') part = part.substr(1, part.size() - 2);
            where += "/" + quantity::cutTo(part, 80);
        }
        std::string what = error.description;
        while (!what.empty() && what.back() == '.')
            what.pop_back();
        faults.push_back({quantity::cutTo(what, 300), where.empty() ? "/" : where,
                          "correct it as docs/job-format.md says"});
    }
    return faults;
}

} // namespace metrodos::job

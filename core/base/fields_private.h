#pragma once
// Reading JSON objects field by field: checks types, notes what is odd, and keeps what it does not know.
#include "core/base/diagnostic.h"
#include "core/base/json_text_private.h"
#include "core/base/value.h"

#include <fmt/format.h>
#include <set>

namespace hue {

class Fields {
  public:
    Fields(const Json& object, std::string where, std::vector<Diagnostic>& report)
        : m_object(object), m_where(std::move(where)), m_report(report) {}

    const Json* find(const char* key) {
        m_known.insert(key);
        auto it = m_object.find(key);
        return it == m_object.end() ? nullptr : &*it;
    }
    std::string text(const char* key, const std::string& otherwise = {}) {
        const Json* j = find(key);
        if (!j) return otherwise;
        if (j->is_string()) return j->get<std::string>();
        odd(key, "a text");
        return otherwise;
    }
    float number(const char* key, float otherwise) {
        const Json* j = find(key);
        if (!j) return otherwise;
        if (j->is_number() && std::isfinite(j->get<float>())) return j->get<float>();
        odd(key, "a number");
        return otherwise;
    }
    bool truth(const char* key, bool otherwise) {
        const Json* j = find(key);
        if (!j) return otherwise;
        if (j->is_boolean()) return j->get<bool>();
        odd(key, "true or false");
        return otherwise;
    }
    /// One of several names; the first when there is none.
    template <class Enum> Enum choice(const char* key, std::initializer_list<std::pair<std::string_view, Enum>> choices, Enum otherwise) {
        const Json* j = find(key);
        if (!j) return otherwise;
        if (j->is_string())
            for (const auto& [name, value] : choices)
                if (j->get_ref<const std::string&>() == name) return value;
        odd(key, "one of the known words");
        return otherwise;
    }
    Value value(const char* key, const Value& otherwise) {
        const Json* j = find(key);
        if (!j) return otherwise;
        Value out;
        if (readValue(*j, out)) return out;
        odd(key, "a number or a list of one to four");
        return otherwise;
    }
    const Json& list(const char* key) {
        static const Json none = Json::array();
        const Json* j = find(key);
        if (!j) return none;
        if (j->is_array()) return *j;
        odd(key, "a list");
        return none;
    }
    const Json& object(const char* key) {
        static const Json none = Json::object();
        const Json* j = find(key);
        if (!j) return none;
        if (j->is_object()) return *j;
        odd(key, "an object");
        return none;
    }
    /// Whatever was not asked for, as JSON text; empty when there is nothing.
    std::string rest() const {
        Json extra = Json::object();
        for (const auto& [key, v] : m_object.items())
            if (!m_known.contains(key)) extra[key] = v;
        return extra.empty() ? std::string{} : extra.dump();
    }
    void odd(const char* key, std::string_view wanted) {
        m_report.push_back({Severity::Caution,
                            "project.odd-field",
                            {},
                            fmt::format("In {}, {} should be {}; its default is used instead.", m_where, key, wanted),
                            {}});
    }
    static bool readValue(const Json& j, Value& out) {
        if (j.is_number() && std::isfinite(j.get<float>())) {
            out = Value::number(j.get<float>());
            return true;
        }
        if (!j.is_array() || j.empty() || j.size() > 4) return false;
        Value read;
        read.width = int(j.size());
        for (size_t c = 0; c < j.size(); ++c) {
            if (!j[c].is_number() || !std::isfinite(j[c].get<float>())) return false;
            read[int(c)] = j[c].get<float>();
        }
        out = read;
        return true;
    }

  private:
    const Json& m_object;
    std::string m_where;
    std::vector<Diagnostic>& m_report;
    std::set<std::string> m_known;
};

} // namespace hue

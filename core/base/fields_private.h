#pragma once
// Reading JSON objects field by field: checks types, notes what is odd, and keeps what it does not know.
#include "core/base/diagnostic.h"
#include "core/base/json_text_private.h"
#include "core/base/value.h"
#include "core/base/words.h"

#include <fmt/format.h>
#include <set>

namespace hue {

class Fields {
  public:
    /// `noun`: "a card"; its name or id follows in what is reported.
    Fields(const Json& object, std::string_view noun, std::vector<Diagnostic>& report)
        : m_object(object), m_where(placeOf(object, noun)), m_report(report) {}

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
    /// Whatever was not asked for, as JSON text; empty when there is nothing. Each is told with the nearest field that there is.
    std::string rest() {
        Json extra = Json::object();
        const std::vector<std::string_view> known(m_known.begin(), m_known.end());
        for (const auto& [key, v] : m_object.items()) {
            if (m_known.contains(key)) continue;
            extra[key] = v;
            m_report.push_back(
                {Severity::Caution,
                 "unknown.field",
                 {},
                 fmt::format("In {} stands the field {}, which this version does not know; it is kept and counts for nothing.{}", m_where,
                             key, nearestSentence(key, known)),
                 {}});
        }
        return extra.empty() ? std::string{} : extra.dump();
    }
    /// `wanted`: "a number". Errors name what stands there.
    void odd(std::string_view key, std::string_view wanted) {
        const Json* there = nullptr;
        if (const auto it = m_object.find(key); it != m_object.end()) there = &*it;
        odd(key, wanted, there);
    }
    void odd(std::string_view key, std::string_view wanted, const Json* there) {
        std::string text = there ? there->dump(-1, ' ', false, Json::error_handler_t::replace) : std::string();
        constexpr size_t kShown = 40;
        if (text.size() > kShown) {
            text.resize(kShown);
            while (!text.empty() && (text.back() & 0xC0) == 0x80) text.pop_back();
            if (!text.empty() && (text.back() & 0x80)) text.pop_back();
            text += "\u2026";
        }
        m_report.push_back({Severity::Caution,
                            "project.odd-field",
                            {},
                            fmt::format("In {}, {} is {} and should be {}; its default is used instead.", m_where, key, text, wanted),
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
    static std::string placeOf(const Json& object, std::string_view noun) {
        for (const char* key : {"name", "id"})
            if (const auto it = object.find(key); it != object.end() && it->is_string() && !it->get_ref<const std::string&>().empty()) {
                for (const std::string_view article : {"a ", "an "})
                    if (noun.starts_with(article))
                        return fmt::format("the {} {}", noun.substr(article.size()), it->get_ref<const std::string&>());
                return std::string(noun);
            }
        return std::string(noun);
    }

    const Json& m_object;
    std::string m_where;
    std::vector<Diagnostic>& m_report;
    std::set<std::string> m_known;
};

} // namespace hue

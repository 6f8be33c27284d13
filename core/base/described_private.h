#pragma once
// Objects of files, described once. A description is a function template `describe(F& f, T& object)` that names each field with its
// default, its range and a few words; reader, writer, schema and tables of the docs are visitors of it. So none can forget a field, and
// every object keeps the fields that it does not know.
#include "core/base/diagnostic.h"
#include "core/base/fields_private.h"

#include <cassert>
#include <memory>
#include <optional>
#include <span>

namespace hue {

/// Whether a field is written when it has its default.
enum class Written { Always, WhenSet };

template <class E> struct Word {
    std::string_view name;
    E value;
};

template <class E, size_t N> std::span<const Word<E>> wordsOf(const Word<E> (&words)[N]) { return words; }
template <class E> std::span<const Word<E>> wordsOf(const std::vector<Word<E>>& words) { return words; }

/// JSON -> object. What is odd is reported and takes its default; numbers are brought into their range.
class FieldReader {
  public:
    FieldReader(const Json& object, std::string_view where, std::vector<Diagnostic>& report, std::function<std::string(char)> newId)
        : m_fields(object, where, report), m_report(report), m_newId(std::move(newId)) {}
    static constexpr bool kReads = true;

    void id(std::string& v, char letter) { v = m_fields.text("id", m_newId(letter)); }
    void text(const char* key, std::string& v, std::string_view, Written = Written::WhenSet, const std::string& otherwise = {}) {
        v = m_fields.text(key, otherwise);
    }
    void number(const char* key, float& v, float otherwise, float low, float high, std::string_view, Written = Written::WhenSet) {
        v = std::clamp(m_fields.number(key, otherwise), low, high);
    }
    void integer(const char* key, int& v, int otherwise, int low, int high, std::string_view, Written = Written::WhenSet) {
        v = int(std::clamp(m_fields.number(key, float(otherwise)), float(low), float(high)));
    }
    void truth(const char* key, bool& v, bool otherwise, std::string_view, Written = Written::WhenSet) {
        v = m_fields.truth(key, otherwise);
    }
    template <class E>
    void choice(const char* key, E& v, E otherwise, std::span<const Word<E>> words, std::string_view, Written = Written::WhenSet) {
        v = otherwise;
        const Json* j = m_fields.find(key);
        if (!j) return;
        if (j->is_string())
            for (const auto& w : words)
                if (j->get_ref<const std::string&>() == w.name) return void(v = w.value);
        std::vector<std::string_view> names;
        for (const auto& w : words) names.push_back(w.name);
        m_fields.odd(key, anyOf(names));
    }
    template <class E> void optionalChoice(const char* key, std::optional<E>& v, std::span<const Word<E>> words, std::string_view about) {
        if (!m_fields.find(key)) return;
        v.emplace();
        choice(key, *v, words[0].value, words, about);
    }
    void optionalNumber(const char* key, std::optional<float>& v, float otherwise, float low, float high, std::string_view about) {
        if (m_fields.find(key)) number(key, v.emplace(), otherwise, low, high, about);
    }
    void optionalTruth(const char* key, std::optional<bool>& v, std::string_view about) {
        if (m_fields.find(key)) truth(key, v.emplace(), false, about);
    }
    /// Numbers that belong together, as a list.
    void numbers(const char* key, std::span<float* const> v, std::span<const float> otherwise, float low, float high, std::string_view,
                 Written = Written::WhenSet) {
        assert(v.size() <= 4); // a Value holds no more
        Value standard{int(v.size()), {}};
        for (size_t c = 0; c < v.size(); ++c) standard[int(c)] = otherwise[c];
        const Value read = m_fields.value(key, standard);
        for (size_t c = 0; c < v.size(); ++c) *v[c] = std::clamp(read[read.width > int(c) ? int(c) : 0], low, high);
    }
    void texts(const char* key, std::vector<std::string>& v, std::string_view, Written = Written::WhenSet) {
        for (const Json& j : m_fields.list(key))
            if (j.is_string()) v.push_back(j.get<std::string>());
    }
    /// Words that are not known stay in `others`.
    void bits(const char* key, uint32_t& v, std::vector<std::string>& others, std::span<const Word<uint32_t>> words, std::string_view) {
        for (const Json& j : m_fields.list(key)) {
            const auto known = std::find_if(words.begin(), words.end(), [&](const auto& w) { return j == w.name; });
            if (known != words.end()) v |= known->value;
            else if (j.is_string()) others.push_back(j.get<std::string>());
        }
    }
    template <class T> void list(const char* key, std::vector<T>& v, const char* noun, std::string_view, Written = Written::Always) {
        eachObject(key, [&](const Json& j) { read(j, noun, v.emplace_back()); });
    }
    template <class T>
    void list(const char* key, std::vector<std::shared_ptr<const T>>& v, const char* noun, std::string_view, Written = Written::Always) {
        eachObject(key, [&](const Json& j) {
            auto made = std::make_shared<T>();
            read(j, noun, *made);
            v.push_back(std::move(made));
        });
    }
    /// By the id that each entry holds.
    template <class T>
    void keyed(const char* key, std::map<std::string, std::shared_ptr<const T>>& v, const char* noun, std::string_view,
               const std::string& owner) {
        eachObject(key, [&](const Json& j) {
            auto made = std::make_shared<T>();
            read(j, noun, *made);
            const std::string id = made->id;
            if (v.contains(id))
                m_report.push_back({Severity::Caution,
                                    "project.same-id",
                                    {{}, id, {}},
                                    fmt::format("Two {} of {} have the id {}; only the last was kept.", key, owner, id),
                                    {}});
            v[id] = std::move(made);
        });
    }
    /// An object that may be missing; `there` tells the writer.
    template <class T> bool object(const char* key, T& v, bool, const char* noun, std::string_view) {
        if (!m_fields.find(key)) return false;
        read(m_fields.object(key), noun, v);
        return true;
    }
    template <class T> void optionalObject(const char* key, std::optional<T>& v, const char* noun, std::string_view about) {
        if (m_fields.find(key)) object(key, v.emplace(), true, noun, about);
    }
    /// Values by name, which the file's owner chooses.
    void values(const char* key, std::map<std::string, Value>& v, std::string_view, Written = Written::WhenSet) {
        for (const auto& [name, j] : m_fields.object(key).items())
            if (Value read; Fields::readValue(j, read)) v[name] = read;
            else m_fields.odd(fmt::format("{} of {}", name, key), "a number or a list of one to four", &j);
    }
    void textsByName(const char* key, std::map<std::string, std::string>& v, std::string_view, Written = Written::WhenSet) {
        for (const auto& [name, j] : m_fields.object(key).items())
            if (j.is_string()) v[name] = j.get<std::string>();
    }
    template <class T>
    void objectsByName(const char* key, std::map<std::string, T>& v, const char* noun, std::string_view, Written = Written::WhenSet) {
        for (const auto& [name, j] : m_fields.object(key).items())
            if (j.is_object()) read(j, noun, v[name]);
    }
    /// Objects under fixed names, in their order.
    template <class T>
    void objectsInOrder(const char* key, std::map<std::string, T>& v, std::span<const char* const> names, const char*, std::string_view) {
        const Json& object = m_fields.object(key);
        for (const char* name : names)
            if (const auto it = object.find(name); it != object.end() && it->is_object())
                read(*it, fmt::format("the lane {}", name).c_str(), v[name]);
    }
    /// A field with rules of its own: read from JSON (null when it is missing) and made into JSON (null: left out).
    template <class Read, class Write> void own(const char* key, Read readIt, Write, std::string_view, std::string_view) {
        readIt(m_fields.find(key));
    }
    void rest(std::string& extra) { extra = m_fields.rest(); }
    /// Fields that are looked at elsewhere.
    void ignore(std::initializer_list<const char*> keys) {
        for (const char* key : keys) m_fields.find(key);
    }

  private:
    template <class T> void read(const Json& j, const char* noun, T& v) {
        FieldReader inner(j, noun, m_report, m_newId);
        describe(inner, v);
    }
    template <class Each> void eachObject(const char* key, Each each) {
        for (const Json& j : m_fields.list(key)) {
            if (j.is_object()) each(j);
            else
                m_report.push_back({Severity::Caution,
                                    "project.odd-entry",
                                    {},
                                    fmt::format("An entry of {} is not an object and was left out.", key),
                                    {}});
        }
    }

    Fields m_fields;
    std::vector<Diagnostic>& m_report;
    std::function<std::string(char)> m_newId;
};

/// Object -> JSON, in the order of the description.
class FieldWriter {
  public:
    explicit FieldWriter(Json& out) : m_out(out) {}
    static constexpr bool kReads = false;

    static Json of(const Value& v) {
        if (v.width == 1) return v[0];
        Json list = Json::array();
        for (int c = 0; c < v.width; ++c) list.push_back(v[c]);
        return list;
    }
    template <class T> static Json of(const T& object) {
        Json j = Json::object();
        FieldWriter inner(j);
        describe(inner, const_cast<T&>(object)); // descriptions serve readers too; a writer changes nothing
        return j;
    }

    void id(std::string& v, char) { m_out["id"] = v; }
    void text(const char* key, std::string& v, std::string_view, Written when = Written::WhenSet, const std::string& otherwise = {}) {
        if (when == Written::Always || v != otherwise) m_out[key] = v;
    }
    void number(const char* key, float& v, float otherwise, float, float, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || v != otherwise) m_out[key] = v;
    }
    void integer(const char* key, int& v, int otherwise, int, int, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || v != otherwise) m_out[key] = v;
    }
    void truth(const char* key, bool& v, bool otherwise, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || v != otherwise) m_out[key] = v;
    }
    template <class E>
    void choice(const char* key, E& v, E otherwise, std::span<const Word<E>> words, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::WhenSet && v == otherwise) return;
        for (const auto& w : words)
            if (w.value == v) m_out[key] = w.name;
    }
    template <class E> void optionalChoice(const char* key, std::optional<E>& v, std::span<const Word<E>> words, std::string_view about) {
        if (v) choice(key, *v, *v, words, about, Written::Always);
    }
    void optionalNumber(const char* key, std::optional<float>& v, float, float, float, std::string_view) {
        if (v) m_out[key] = *v;
    }
    void optionalTruth(const char* key, std::optional<bool>& v, std::string_view) {
        if (v) m_out[key] = *v;
    }
    void numbers(const char* key, std::span<float* const> v, std::span<const float> otherwise, float, float, std::string_view,
                 Written when = Written::WhenSet) {
        bool same = true;
        Json list = Json::array();
        for (size_t c = 0; c < v.size(); ++c) same = same && *v[c] == otherwise[c], list.push_back(*v[c]);
        if (when == Written::Always || !same) m_out[key] = list;
    }
    void texts(const char* key, std::vector<std::string>& v, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || !v.empty()) m_out[key] = v;
    }
    void bits(const char* key, uint32_t& v, std::vector<std::string>& others, std::span<const Word<uint32_t>> words, std::string_view) {
        for (const auto& w : words)
            if (v & w.value) m_out[key].push_back(w.name);
        for (const std::string& other : others) m_out[key].push_back(other);
    }
    template <class T> void list(const char* key, std::vector<T>& v, const char*, std::string_view, Written when = Written::Always) {
        if (when == Written::Always || !v.empty()) m_out[key] = Json::array();
        for (const T& entry : v) m_out[key].push_back(of(entry));
    }
    template <class T>
    void list(const char* key, std::vector<std::shared_ptr<const T>>& v, const char*, std::string_view, Written when = Written::Always) {
        if (when == Written::Always || !v.empty()) m_out[key] = Json::array();
        for (const auto& entry : v) m_out[key].push_back(of(*entry));
    }
    template <class T>
    void keyed(const char* key, std::map<std::string, std::shared_ptr<const T>>& v, const char*, std::string_view, const std::string&) {
        m_out[key] = Json::array();
        for (const auto& [id, entry] : v) m_out[key].push_back(of(*entry));
    }
    template <class T> bool object(const char* key, T& v, bool there, const char*, std::string_view) {
        if (there) m_out[key] = of(v);
        return there;
    }
    template <class T> void optionalObject(const char* key, std::optional<T>& v, const char*, std::string_view) {
        if (v) m_out[key] = of(*v);
    }
    void values(const char* key, std::map<std::string, Value>& v, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || !v.empty()) m_out[key] = Json::object();
        for (const auto& [name, value] : v) m_out[key][name] = of(value);
    }
    void textsByName(const char* key, std::map<std::string, std::string>& v, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || !v.empty()) m_out[key] = Json::object();
        for (const auto& [name, value] : v) m_out[key][name] = value;
    }
    template <class T>
    void objectsByName(const char* key, std::map<std::string, T>& v, const char*, std::string_view, Written when = Written::WhenSet) {
        if (when == Written::Always || !v.empty()) m_out[key] = Json::object();
        for (const auto& [name, value] : v) m_out[key][name] = of(value);
    }
    template <class T>
    void objectsInOrder(const char* key, std::map<std::string, T>& v, std::span<const char* const> names, const char*, std::string_view) {
        m_out[key] = Json::object();
        for (const char* name : names)
            if (const auto it = v.find(name); it != v.end()) m_out[key][name] = of(it->second);
    }
    template <class Read, class Write> void own(const char* key, Read, Write write, std::string_view, std::string_view) {
        if (Json j = write(); !j.is_null()) m_out[key] = std::move(j);
    }
    void rest(std::string& extra) { addRest(m_out, extra); }

  private:
    Json& m_out;
};

/// Description -> JSON schema of the object, and rows of a table for people.
class FieldSchema {
  public:
    /// `defs` receives the objects within, by their nouns; `table` a row for each field, under the object's place.
    FieldSchema(Json& defs, std::vector<std::array<std::string, 4>>& table, std::string place)
        : m_defs(defs), m_table(table), m_place(std::move(place)) {}
    static constexpr bool kReads = true;
    Json schema() const { return Json{{"type", "object"}, {"properties", m_properties}}; }

    void id(std::string&, char) { add("id", {{"type", "string"}, {"minLength", 1}}, "text", "survives renames; everything refers to it"); }
    void text(const char* key, std::string&, std::string_view about, Written = Written::WhenSet, const std::string& otherwise = {}) {
        add(key, {{"type", "string"}}, otherwise.empty() ? "text" : fmt::format("text, {}", otherwise), about);
    }
    void number(const char* key, float&, float otherwise, float low, float high, std::string_view about, Written = Written::WhenSet) {
        add(key, ranged("number", low, high), fmt::format("{:g} to {:g}, {:g}", low, high, otherwise), about);
    }
    void integer(const char* key, int&, int otherwise, int low, int high, std::string_view about, Written = Written::WhenSet) {
        add(key, ranged("integer", low, high), fmt::format("whole, {} to {}, {}", low, high, otherwise), about);
    }
    void truth(const char* key, bool&, bool otherwise, std::string_view about, Written = Written::WhenSet) {
        add(key, {{"type", "boolean"}}, otherwise ? "true or false, true" : "true or false, false", about);
    }
    template <class E>
    void choice(const char* key, E&, E otherwise, std::span<const Word<E>> words, std::string_view about, Written = Written::WhenSet) {
        std::string_view standard;
        for (const auto& w : words)
            if (w.value == otherwise) standard = w.name;
        add(key, Json{{"enum", namesOf(words)}}, fmt::format("{}; {}", joined(words), standard), about);
    }
    template <class E> void optionalChoice(const char* key, std::optional<E>&, std::span<const Word<E>> words, std::string_view about) {
        add(key, Json{{"enum", namesOf(words)}}, joined(words), about);
    }
    void optionalNumber(const char* key, std::optional<float>&, float, float low, float high, std::string_view about) {
        add(key, ranged("number", low, high), fmt::format("{:g} to {:g}", low, high), about);
    }
    void optionalTruth(const char* key, std::optional<bool>&, std::string_view about) {
        add(key, {{"type", "boolean"}}, "true or false", about);
    }
    void numbers(const char* key, std::span<float* const> v, std::span<const float> otherwise, float, float, std::string_view about,
                 Written = Written::WhenSet) {
        std::string standard;
        for (float x : otherwise) standard += fmt::format("{}{:g}", standard.empty() ? "" : " ", x);
        add(key, {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", v.size()}, {"maxItems", v.size()}},
            fmt::format("{} numbers, {}", v.size(), standard), about);
    }
    void texts(const char* key, std::vector<std::string>&, std::string_view about, Written = Written::WhenSet) {
        add(key, {{"type", "array"}, {"items", {{"type", "string"}}}}, "texts", about);
    }
    void bits(const char* key, uint32_t&, std::vector<std::string>&, std::span<const Word<uint32_t>> words, std::string_view about) {
        add(key, {{"type", "array"}, {"items", {{"enum", namesOf(words)}}}}, "any of " + joined(words), about);
    }
    template <class T> void list(const char* key, std::vector<T>&, const char* noun, std::string_view about, Written = Written::Always) {
        objects<T>(key, noun, about, "array");
    }
    template <class T>
    void list(const char* key, std::vector<std::shared_ptr<const T>>&, const char* noun, std::string_view about,
              Written = Written::Always) {
        objects<T>(key, noun, about, "array");
    }
    template <class T>
    void keyed(const char* key, std::map<std::string, std::shared_ptr<const T>>&, const char* noun, std::string_view about,
               const std::string&) {
        objects<T>(key, noun, about, "array");
    }
    template <class T> bool object(const char* key, T&, bool, const char* noun, std::string_view about) {
        objects<T>(key, noun, about, "one");
        return false;
    }
    template <class T> void optionalObject(const char* key, std::optional<T>&, const char* noun, std::string_view about) {
        objects<T>(key, noun, about, "one");
    }
    void values(const char* key, std::map<std::string, Value>&, std::string_view about, Written = Written::WhenSet) {
        add(key, {{"type", "object"}, {"additionalProperties", valueSchema()}}, "numbers, or lists of one to four, by name", about);
    }
    void textsByName(const char* key, std::map<std::string, std::string>&, std::string_view about, Written = Written::WhenSet) {
        add(key, {{"type", "object"}, {"additionalProperties", {{"type", "string"}}}}, "texts by name", about);
    }
    template <class T>
    void objectsByName(const char* key, std::map<std::string, T>&, const char* noun, std::string_view about, Written = Written::WhenSet) {
        objects<T>(key, noun, about, "named");
    }
    template <class T>
    void objectsInOrder(const char* key, std::map<std::string, T>&, std::span<const char* const>, const char* noun,
                        std::string_view about) {
        objects<T>(key, noun, about, "named");
    }
    template <class Read, class Write> void own(const char* key, Read, Write, std::string_view schema, std::string_view about) {
        add(key, Json::parse(schema), "", about);
    }
    void rest(std::string&) {}

    static Json valueSchema() {
        return {{"oneOf", Json::array({Json{{"type", "number"}},
                                       Json{{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", 1}, {"maxItems", 4}}})}};
    }

  private:
    void add(const char* key, Json schema, std::string what, std::string_view about) {
        if (!about.empty()) schema["description"] = about;
        m_properties[key] = std::move(schema);
        m_table.push_back({m_place, key, std::move(what), std::string(about)});
    }
    static Json ranged(const char* type, double low, double high) {
        Json j{{"type", type}};
        if (low > -1e8) j["minimum"] = low;
        if (high < 1e8) j["maximum"] = high;
        return j;
    }
    template <class E> static Json namesOf(std::span<const Word<E>> words) {
        Json names = Json::array();
        for (const auto& w : words) names.push_back(w.name);
        return names;
    }
    template <class E> static std::string joined(std::span<const Word<E>> words) {
        std::string out;
        for (const auto& w : words) out += fmt::format("{}{}", out.empty() ? "" : ", ", w.name);
        return out;
    }
    template <class T> void objects(const char* key, const char* noun, std::string_view about, std::string_view how) {
        std::string name(noun);
        for (const char* article : {"a ", "an ", "the "})
            if (name.starts_with(article)) name = name.substr(std::string_view(article).size());
        std::replace(name.begin(), name.end(), ' ', '_');
        const Json ref{{"$ref", "#/$defs/" + name}};
        add(key,
            how == "array"   ? Json{{"type", "array"}, {"items", ref}}
            : how == "named" ? Json{{"type", "object"}, {"additionalProperties", ref}}
                             : ref,
            how == "array"   ? fmt::format("list, each {}", noun)
            : how == "named" ? fmt::format("by name, each {}", noun)
                             : std::string(noun),
            about);
        if (m_defs.contains(name)) return;
        m_defs[name] = Json::object();
        FieldSchema inner(m_defs, m_table, noun);
        T object{};
        describe(inner, object);
        m_defs[name] = inner.schema();
    }

    Json& m_defs;
    std::vector<std::array<std::string, 4>>& m_table;
    std::string m_place;
    Json m_properties = Json::object();
};

} // namespace hue

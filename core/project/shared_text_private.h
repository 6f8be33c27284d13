#pragma once
// Texts that are shared outside of a project: what the clipboard holds, and files of assemblies.
// Threads: any. Nothing is kept between calls.
#include "core/base/json_depth.h"
#include "core/project/project_fields_private.h"
#include "core/project/store.h"

namespace hue {

/// The text of what `content` describes, with its kind and format in front.
template <class Content> std::string sharedText(const char* kind, Content& content) {
    Json j{{"kind", kind}, {"format", kFormat}};
    const Json fields = FieldWriter::of(content);
    for (const auto& [key, value] : fields.items()) j[key] = value;
    return textOf(j);
}

/// Reads it back. `refuse` makes an error of what stands there instead ("it is not JSON, or was cut off"), `newer` of a format that this
/// version does not know; `what` is its name in reports: "the copied cards".
template <class Content, class Refuse, class Newer>
Result<Content> parseShared(const std::string& text, const char* kind, const char* what, Refuse refuse, Newer newer) {
    if (depthOfJson(text) > kDeepestJson) return refuse(fmt::format("it nests more than {} levels deep", kDeepestJson));
    const Json j = Json::parse(text, nullptr, false);
    if (j.is_discarded()) return refuse("it is not JSON, or was cut off");
    if (!j.is_object() || j.value("kind", Json()) != kind) return refuse(fmt::format("its kind is not \"{}\"", kind));
    const Json format = j.value("format", Json());
    if (!format.is_number_integer() || format.template get<int64_t>() < 1) return refuse("it does not say which format it has");
    if (format.template get<int64_t>() > kFormat) return newer(format.template get<int64_t>());
    Content out;
    std::vector<Diagnostic> report;
    FieldReader reader(j, what, report, [](char letter) { return newId(letter); });
    reader.ignore({"kind", "format"});
    describe(reader, out);
    return out;
}

} // namespace hue

#include "core/project/cards_text.h"

#include "core/base/json_depth.h"
#include "core/project/project_fields_private.h"
#include "core/project/store.h"

namespace hue {

std::string cardsText(const CopiedCards& cards) {
    Json j{{"kind", "huestack cards"}, {"format", kFormat}};
    CopiedCards copy = cards;
    const Json fields = FieldWriter::of(copy);
    for (const auto& [key, value] : fields.items()) j[key] = value;
    return textOf(j);
}

Result<CopiedCards> parseCards(const std::string& text) {
    const auto refuse = [](const std::string& why) {
        return Error{"cards.unreadable", fmt::format("What was copied is no cards: {}. Select cards on a board and copy them.", why), {}};
    };
    if (depthOfJson(text) > kDeepestJson) return refuse(fmt::format("it nests more than {} levels deep", kDeepestJson));
    const Json j = Json::parse(text, nullptr, false);
    if (j.is_discarded()) return refuse("it is not JSON, or was cut off");
    if (!j.is_object() || j.value("kind", Json()) != "huestack cards") return refuse("its kind is not \"huestack cards\"");
    const Json format = j.value("format", Json());
    if (!format.is_number_integer() || format.get<int64_t>() < 1) return refuse("it does not say which format it has");
    if (format.get<int64_t>() > kFormat)
        return Error{"cards.newer-format",
                     fmt::format("The cards were copied in a newer version (format {}; this one reads up to {}). Copy them there again "
                                 "after this one was brought up to date.",
                                 format.get<int64_t>(), kFormat),
                     {}};
    CopiedCards out;
    std::vector<Diagnostic> report;
    FieldReader reader(j, "the copied cards", report, [](char letter) { return newId(letter); });
    reader.ignore({"kind", "format"});
    describe(reader, out);
    if (out.nodes.empty()) return refuse("there are none in it");
    return out;
}

} // namespace hue

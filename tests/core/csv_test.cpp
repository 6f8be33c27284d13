// Tables as text.
#include "core/base/csv.h"

#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

Csv read(std::string_view text) {
    const Result<Csv> rows = csvFrom(text);
    EXPECT_TRUE(rows) << rows.error().sentence;
    return rows ? *rows : Csv{};
}

// The examples of RFC 4180, section 2.
TEST(Csv, ReadsWhatTheStandardShows) {
    const Csv two{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}};
    EXPECT_EQ(read("aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n"), two);
    EXPECT_EQ(read("aaa,bbb,ccc\r\nzzz,yyy,xxx"), two) << "the last line need not end";
    EXPECT_EQ(read("\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx"), two);
    EXPECT_EQ(read("\"aaa\",\"b\r\nbb\",\"ccc\"\r\nzzz,yyy,xxx"), (Csv{{"aaa", "b\r\nbb", "ccc"}, {"zzz", "yyy", "xxx"}}));
    EXPECT_EQ(read("\"aaa\",\"b\"\"bb\",\"ccc\""), (Csv{{"aaa", "b\"bb", "ccc"}}));
}

TEST(Csv, TakesWhatSpreadsheetsOfOtherCountriesWrite) {
    EXPECT_EQ(read("\xEF\xBB\xBFname;wear\nA;0,5\n"), (Csv{{"name", "wear"}, {"A", "0,5"}}));
    EXPECT_EQ(read("name\twear\nA, and B\t1;2\n"), (Csv{{"name", "wear"}, {"A, and B", "1;2"}}));
    EXPECT_EQ(read("\"a;b;c\",d\n1,2"), (Csv{{"a;b;c", "d"}, {"1", "2"}})) << "what stands in quotes separates nothing";
    EXPECT_EQ(read("a,\n,b\n"), (Csv{{"a", ""}, {"", "b"}}));
    EXPECT_EQ(read("old\rmac\r"), (Csv{{"old"}, {"mac"}}));
    EXPECT_EQ(read(""), Csv{});
    EXPECT_EQ(read("\n\n"), Csv{});
}

TEST(Csv, TakesNoOtherSeparatorThanTheOneThatIsGiven) {
    const Result<Csv> column = csvFrom("0,3\n0,4\n", nullptr, '\t');
    ASSERT_TRUE(column);
    EXPECT_EQ(*column, (Csv{{"0,3"}, {"0,4"}}));
}

TEST(Csv, SaysInWhichLineRowsBeginAndWhereQuotesStayOpen) {
    std::vector<size_t> lines;
    ASSERT_TRUE(csvFrom("a,b\n\n\"two\nlines\",c\nd,e\n", &lines));
    EXPECT_EQ(lines, (std::vector<size_t>{1, 3, 5}));
    const Result<Csv> open = csvFrom("a,b\nc,\"d\ne,f\n");
    ASSERT_FALSE(open);
    EXPECT_EQ(open.error().code, "csv.quotes");
    EXPECT_NE(open.error().sentence.find("line 2"), std::string::npos) << open.error().sentence;
}

TEST(Csv, BringsBackWhateverWasWritten) {
    std::mt19937 random(7);
    constexpr std::string_view letters = "ab\",;\t\n\r ~#\xC3\xA4";
    for (int k = 0; k < 400; ++k) {
        for (const char separator : {',', ';', '\t'}) {
            Csv rows(1 + random() % 5);
            // What separates is seen in the first line, which therefore has more than one cell.
            const size_t columns = 2 + random() % 4;
            for (auto& row : rows)
                for (size_t c = 0; c < columns; ++c) {
                    std::string& cell = row.emplace_back();
                    for (size_t n = random() % 6; n > 0; --n) cell += letters[random() % letters.size()];
                }
            for (size_t c = 0; c < columns; ++c) rows[0][c] = "column" + std::to_string(c);
            ASSERT_EQ(read(csvText(rows, separator)), rows) << csvText(rows, separator);
        }
    }
}

} // namespace
} // namespace hue

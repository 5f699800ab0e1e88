/* {= if cmocka =} */
#include "{= name =}/count.h"
#include "tests.h"

#include <setjmp.h>
#include <stdarg.h>
#include <stdint.h>

#include <cmocka.h>
#include <string.h>

static void texts_are_counted(void **state)
{
    (void)state;
    static const struct {
        const char *text;
        size_t lines, words;
    } cases[] = {{"", 0, 0}, {"one", 0, 1}, {"one two\nthree\n", 2, 3}, {" \n\t\n", 2, 0}};
    for (size_t at = 0; at < sizeof cases / sizeof cases[0]; at++) {
        {= prefix =}_counts counts = {= prefix =}_count(cases[at].text, strlen(cases[at].text));
        assert_int_equal(counts.lines, cases[at].lines);
        assert_int_equal(counts.words, cases[at].words);
        assert_int_equal(counts.bytes, strlen(cases[at].text));
    }
}

static void a_word_in_two_pieces_is_one(void **state)
{
    (void)state;
    FILE *file = tmpfile();
    assert_non_null(file);
    for (int at = 0; at < 5000; at++) {
        fputc('x', file);
    }
    rewind(file);
    {= prefix =}_counts counts;
    assert_int_equal({= prefix =}_count_file(file, &counts), 0);
    assert_int_equal(counts.words, 1);
    assert_int_equal(counts.bytes, 5000);
    fclose(file);
}

int test_count(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(texts_are_counted),
        cmocka_unit_test(a_word_in_two_pieces_is_one),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
/* {= else =} */
#include "{= name =}/count.h"
#include "tests.h"

#include <string.h>

static int differs(const char *what, size_t found, size_t expected)
{
    if (found == expected) {
        return 0;
    }
    fprintf(stderr, "count, %s: found %zu, expected %zu\n", what, found, expected);
    return 1;
}

static int texts_are_counted(void)
{
    static const struct {
        const char *text;
        size_t lines, words;
    } cases[] = {{"", 0, 0}, {"one", 0, 1}, {"one two\nthree\n", 2, 3}, {" \n\t\n", 2, 0}};
    int failed = 0;
    for (size_t at = 0; at < sizeof cases / sizeof cases[0]; at++) {
        {= prefix =}_counts counts = {= prefix =}_count(cases[at].text, strlen(cases[at].text));
        failed += differs("lines", counts.lines, cases[at].lines);
        failed += differs("words", counts.words, cases[at].words);
        failed += differs("bytes", counts.bytes, strlen(cases[at].text));
    }
    return failed;
}

static int a_word_in_two_pieces_is_one(void)
{
    FILE *file = tmpfile();
    if (file == NULL) {
        perror("tmpfile");
        return 1;
    }
    for (int at = 0; at < 5000; at++) {
        fputc('x', file);
    }
    rewind(file);
    {= prefix =}_counts counts;
    int failed = {= prefix =}_count_file(file, &counts) != 0;
    failed += differs("a long word", counts.words, 1);
    failed += differs("its bytes", counts.bytes, 5000);
    fclose(file);
    return failed;
}

int test_count(void)
{
    return texts_are_counted() + a_word_in_two_pieces_is_one();
}
/* {= end =} */

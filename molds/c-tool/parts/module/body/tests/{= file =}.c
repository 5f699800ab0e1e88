/* {= if cmocka =} */
#include "{= name =}/{= file =}.h"
#include "tests.h"

#include <setjmp.h>
#include <stdarg.h>
#include <stdint.h>

#include <cmocka.h>

static void words_are_found(void **state)
{
    (void)state;
    static const struct {
        const char *text;
        const char *word;
        size_t expected;
    } cases[] = {{"", "a", 0}, {"banana", "an", 2}, {"banana", "", 0}, {"aaa", "aa", 1}};
    for (size_t at = 0; at < sizeof cases / sizeof cases[0]; at++) {
        size_t found = {= function =}(cases[at].text, cases[at].word);
        assert_int_equal(found, cases[at].expected);
    }
}

int test_{= part.snake =}(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(words_are_found)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
/* {= else =} */
#include "{= name =}/{= file =}.h"
#include "tests.h"

#include <stdio.h>

int test_{= part.snake =}(void)
{
    static const struct {
        const char *text;
        const char *word;
        size_t expected;
    } cases[] = {{"", "a", 0}, {"banana", "an", 2}, {"banana", "", 0}, {"aaa", "aa", 1}};
    int failed = 0;
    for (size_t at = 0; at < sizeof cases / sizeof cases[0]; at++) {
        size_t found = {= function =}(cases[at].text, cases[at].word);
        if (found != cases[at].expected) {
            fprintf(stderr, "{= file =}, case %zu: found %zu, expected %zu\n",
                    at, found, cases[at].expected);
            failed++;
        }
    }
    return failed;
}
/* {= end =} */

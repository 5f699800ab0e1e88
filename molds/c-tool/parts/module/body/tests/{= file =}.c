/* The tests of {= file =}. */
#include "{= file =}.h"

#include <stdio.h>

int test_{= part.snake =}(void);

int test_{= part.snake =}(void) {
    static const struct {
        const char *text;
        const char *word;
        size_t expected;
    } cases[] = {{"", "a", 0}, {"banana", "an", 2}, {"banana", "", 0}, {"aaa", "aa", 1}};
    int failed = 0;
    for (size_t at = 0; at < sizeof cases / sizeof cases[0]; at++) {
        size_t found = {= function =}(cases[at].text, cases[at].word);
        if (found != cases[at].expected) {
            fprintf(stderr, "%s in %s: found %zu, expected %zu\n", cases[at].word, cases[at].text, found, cases[at].expected);
            failed++;
        }
    }
    return failed;
}

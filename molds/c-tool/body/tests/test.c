/* The tests: a table of cases, and a count of what failed. */
#include "{= name =}.h"

#include <string.h>

/* The tests of other files; each gives how many failed. */
/* joint: tests (tinmold) */

static int failed = 0;

static void same(const char *what, size_t found, size_t expected) {
    if (found != expected) {
        fprintf(stderr, "%s: found %zu, expected %zu\n", what, found, expected);
        failed++;
    }
}

static void counts_are(const char *text, size_t lines, size_t words) {
    {= prefix =}_counts counts = {= prefix =}_count(text, strlen(text));
    same(text, counts.lines, lines);
    same(text, counts.words, words);
    same(text, counts.bytes, strlen(text));
}

int main(void) {
    counts_are("", 0, 0);
    counts_are("one", 0, 1);
    counts_are("one two\nthree\n", 2, 3);
    counts_are(" \n\t\n", 2, 0);

    /* A word that is read in two pieces is one word. */
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
    same("reading", (size_t){= prefix =}_count_file(file, &counts), 0);
    same("a long word", counts.words, 1);
    same("its bytes", counts.bytes, 5000);
    fclose(file);
    /* joint: calls (tinmold) */

    if (failed == 0) {
        puts("all tests passed");
    }
    return failed != 0;
}

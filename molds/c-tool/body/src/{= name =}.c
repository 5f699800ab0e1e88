/* The entry: arguments in, exit code out. */
#include "{= name =}/base.h"
#include "{= name =}/count.h"

#include <errno.h>
#include <stdbool.h>
#include <stdio.h>
#include <string.h>

enum {
    DONE = 0,
    FAILED = 1,
    USAGE = 2
};

static const char help[] =
    {= summary.c =}
    "\n\n"
    "{= name =} [--] [FILE...]    count lines, words and bytes; standard input without a file, or as -\n"
    "{= name =} --help            show this\n"
    "{= name =} --version         show the version\n"
    "\n"
    "After --, every word is a file, whatever it begins with.\n";

static int fail(const char *what)
{
    fprintf(stderr, "error: %s: %s\n", what, strerror(errno));
    return FAILED;
}

static int count(FILE *file, const char *name)
{
    {= prefix =}_counts counts;
    if ({= prefix =}_count_file(file, &counts) != 0) {
        return fail(name);
    }
    printf("%8zu %8zu %8zu  %s\n", counts.lines, counts.words, counts.bytes, name);
    return DONE;
}

static int count_named(const char *name)
{
    if (strcmp(name, "-") == 0) {
        return count(stdin, name);
    }
    FILE *file = fopen(name, "rb");
    if (file == NULL) {
        return fail(name);
    }
    int code = count(file, name);
    fclose(file);
    return code;
}

static int run(int argc, char **argv)
{
    int first = 1;
    if (argc > 1 && argv[1][0] == '-' && argv[1][1] != '\0') {
        if (strcmp(argv[1], "--help") == 0) {
            fputs(help, stdout);
            return DONE;
        }
        if (strcmp(argv[1], "--version") == 0) {
            puts("{= name =} " {= macro =}_VERSION);
            return DONE;
        }
        if (strcmp(argv[1], "--") != 0) {
            fprintf(stderr, "error: there is no option %s; --help shows how it is used\n", argv[1]);
            return USAGE;
        }
        first = 2;
    }
    if (first >= argc) {
        return count_named("-");
    }
    int code = DONE;
    for (int at = first; at < argc; at++) {
        if (count_named(argv[at]) != DONE) {
            code = FAILED;
        }
    }
    return code;
}

int main(int argc, char **argv)
{
    int code = run(argc, argv);
    /* What was printed may still wait to be written, to a disk that is full, say. */
    if (fflush(stdout) != 0 || ferror(stdout)) {
        return fail("the output cannot be written");
    }
    return code;
}

/* The entry point: arguments in, exit code out. */
#include "{= name =}.h"

#include <errno.h>
#include <string.h>

enum { DONE = 0, FAILED = 1, USAGE = 2 };

static const char help[] =
    {= summary.c =}
    "\n\n"
    "{= name =} [FILE...]    count lines, words and bytes; standard input without a file\n"
    "{= name =} --help       show this\n"
    "{= name =} --version    show the version\n";

static int count(FILE *file, const char *name) {
    {= prefix =}_counts counts;
    if ({= prefix =}_count_file(file, &counts) != 0) {
        fprintf(stderr, "error: %s: %s\n", name, strerror(errno));
        return FAILED;
    }
    printf("%8zu %8zu %8zu  %s\n", counts.lines, counts.words, counts.bytes, name);
    return DONE;
}

int main(int argc, char **argv) {
    if (argc < 2) {
        return count(stdin, "-");
    }
    if (strcmp(argv[1], "--help") == 0) {
        fputs(help, stdout);
        return DONE;
    }
    if (strcmp(argv[1], "--version") == 0) {
        puts("{= name =} " {= prefix.constant =}_VERSION);
        return DONE;
    }
    if (argv[1][0] == '-') {
        fprintf(stderr, "error: there is no option %s\ntry: {= name =} --help\n", argv[1]);
        return USAGE;
    }
    int code = DONE;
    for (int at = 1; at < argc; at++) {
        FILE *file = fopen(argv[at], "rb");
        if (file == NULL) {
            fprintf(stderr, "error: %s: %s\n", argv[at], strerror(errno));
            code = FAILED;
            continue;
        }
        if (count(file, argv[at]) != DONE) {
            code = FAILED;
        }
        fclose(file);
    }
    return code;
}

#include "{= name =}/count.h"

#include <stdbool.h>

/* A text that comes in pieces: what was counted, and whether the last piece ended within a word. */
typedef struct {
    {= prefix =}_counts counts;
    bool in_word;
} pieces;

static bool is_space(char byte)
{
    return byte == ' ' || (byte >= '\t' && byte <= '\r');
}

static void add(pieces *all, const char *text, size_t length)
{
    for (size_t at = 0; at < length; at++) {
        bool space = is_space(text[at]);
        all->counts.lines += text[at] == '\n';
        all->counts.words += !space && !all->in_word;
        all->in_word = !space;
    }
    all->counts.bytes += length;
}

{= prefix =}_counts {= prefix =}_count(const char *text, size_t length)
{
    pieces all = {{0, 0, 0}, false};
    add(&all, text, length);
    return all.counts;
}

int {= prefix =}_count_file(FILE *file, {= prefix =}_counts *counts)
{
    pieces all = {{0, 0, 0}, false};
    char piece[4096];
    size_t length;
    while ((length = fread(piece, 1, sizeof piece, file)) > 0) {
        add(&all, piece, length);
    }
    *counts = all.counts;
    return ferror(file) ? -1 : 0;
}

/* Counts the lines, words and bytes of a text. */
#ifndef {= macro =}_COUNT_H
#define {= macro =}_COUNT_H

#include <stddef.h>
#include <stdio.h>

#ifdef __cplusplus
extern "C" {
#endif

/* How much a text holds. */
typedef struct {= prefix =}_counts {
    size_t lines; /* how many lines end in it */
    size_t words; /* how many words, with white space between them */
    size_t bytes;
} {= prefix =}_counts;

/* Counts a text of this length; it may hold any bytes. */
{= prefix =}_counts {= prefix =}_count(const char *text, size_t length);

/* Counts what can still be read of a file. Gives 0, or -1 if reading failed; errno says why. */
int {= prefix =}_count_file(FILE *file, {= prefix =}_counts *counts);

#ifdef __cplusplus
}
#endif

#endif

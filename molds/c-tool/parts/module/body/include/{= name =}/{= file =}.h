/* The module {= file =}. */
#ifndef {= macro =}_{= part.constant =}_H
#define {= macro =}_{= part.constant =}_H

#include <stddef.h>

#ifdef __cplusplus
extern "C" {
#endif

/* How often `word` is in `text`; 0 for an empty word. The start of what it is to do. */
size_t {= function =}(const char *text, const char *word);

#ifdef __cplusplus
}
#endif

#endif

/* The module {= file =}. */
#ifndef {= guard =}
#define {= guard =}

#include <stddef.h>

/* How often `word` is in `text`; 0 for an empty word. The start of what it is to do. */
size_t {= function =}(const char *text, const char *word);

#endif

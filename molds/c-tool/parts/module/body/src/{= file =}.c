#include "{= name =}/{= file =}.h"

#include <string.h>

size_t {= function =}(const char *text, const char *word)
{
    size_t length = strlen(word);
    size_t found = 0;
    if (length == 0) {
        return 0;
    }
    for (const char *at = strstr(text, word); at != NULL; at = strstr(at + length, word)) {
        found++;
    }
    return found;
}

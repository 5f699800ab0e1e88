/* What all headers share: the version, and what others may link with. */
#ifndef {= macro =}_BASE_H
#define {= macro =}_BASE_H

/* The version, by Semantic Versioning; the build reads it here. */
#define {= macro =}_VERSION "0.1.0"

#endif

/* The tests of each file. */
#ifndef TESTS_H
#define TESTS_H

int test_count(void);
/* joint: tests (tinmold) */

#endif

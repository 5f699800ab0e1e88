/* Runs the tests of all files; each gives how many failed. */
#include "tests.h"

#include <stdio.h>

int main(void)
{
    int failed = test_count();
    /* joint: calls (tinmold) */
    if (failed == 0) {
        puts("all tests passed");
    }
    return failed != 0;
}

#!/bin/sh
# The program, run as people run it: tests/program.sh PROGRAM
program=$1
failed=0

# expect CODE WORDS ARGUMENTS...: runs it with "one two" as input, and looks for the words in what it prints.
expect() {
    code=$1 words=$2
    shift 2
    printed=$(printf 'one two\n' | "$program" "$@" 2>&1)
    found=$?
    case $printed in
    *"$words"*) [ "$found" -eq "$code" ] && return ;;
    esac
    echo "$program $*: code $found, expected $code and \"$words\"; it printed: $printed" >&2
    failed=1
}

expect 0 '       1        2        8  -'
expect 0 '       1        2        8  -' -
expect 0 '       1        2        8  -' -- -
expect 0 '{= name =} ' --version
expect 0 '[FILE...]' --help
expect 1 'no-such-file' no-such-file
expect 1 '--no-such-file' -- --no-such-file
expect 2 '--colour' --colour
if [ -w /dev/full ]; then
    if "$program" --help >/dev/full 2>/dev/null; then
        echo "$program: a full disk is no failure" >&2
        failed=1
    fi
fi
exit $failed

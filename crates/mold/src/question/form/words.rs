//! Reserved words, each list with its source.

/// Python 3.13, `keyword.kwlist`, and the soft keywords that read badly as modules.
#[rustfmt::skip]
pub(super) const PYTHON: &[&str] = &[
    "False", "None", "True", "and", "as", "assert", "async", "await", "break", "class", "continue",
    "def", "del", "elif", "else", "except", "finally", "for", "from", "global", "if", "import", "in",
    "is", "lambda", "nonlocal", "not", "or", "pass", "raise", "return", "try", "while", "with", "yield",
];

/// Python, `sys.stdlib_module_names`, without private ones.
#[rustfmt::skip]
pub(super) const PYTHON_STANDARD: &[&str] = &[
    "abc", "aifc", "antigravity", "argparse", "array", "ast", "asynchat", "asyncio", "asyncore",
    "atexit", "audioop", "base64", "bdb", "binascii", "bisect", "builtins", "bz2", "cProfile",
    "calendar", "cgi", "cgitb", "chunk", "cmath", "cmd", "code", "codecs", "codeop", "collections",
    "colorsys", "compileall", "concurrent", "configparser", "contextlib", "contextvars", "copy",
    "copyreg", "crypt", "csv", "ctypes", "curses", "dataclasses", "datetime", "dbm", "decimal",
    "difflib", "dis", "distutils", "doctest", "email", "encodings", "ensurepip", "enum", "errno",
    "faulthandler", "fcntl", "filecmp", "fileinput", "fnmatch", "fractions", "ftplib", "functools",
    "gc", "genericpath", "getopt", "getpass", "gettext", "glob", "graphlib", "grp", "gzip", "hashlib",
    "heapq", "hmac", "html", "http", "idlelib", "imaplib", "imghdr", "imp", "importlib", "inspect",
    "io", "ipaddress", "itertools", "json", "keyword", "lib2to3", "linecache", "locale", "logging",
    "lzma", "mailbox", "mailcap", "marshal", "math", "mimetypes", "mmap", "modulefinder", "msilib",
    "msvcrt", "multiprocessing", "netrc", "nis", "nntplib", "nt", "ntpath", "nturl2path", "numbers",
    "opcode", "operator", "optparse", "os", "ossaudiodev", "pathlib", "pdb", "pickle", "pickletools",
    "pipes", "pkgutil", "platform", "plistlib", "poplib", "posix", "posixpath", "pprint", "profile",
    "pstats", "pty", "pwd", "py_compile", "pyclbr", "pydoc", "pydoc_data", "pyexpat", "queue", "quopri",
    "random", "re", "readline", "reprlib", "resource", "rlcompleter", "runpy", "sched", "secrets",
    "select", "selectors", "shelve", "shlex", "shutil", "signal", "site", "smtpd", "smtplib", "sndhdr",
    "socket", "socketserver", "spwd", "sqlite3", "sre_compile", "sre_constants", "sre_parse", "ssl",
    "stat", "statistics", "string", "stringprep", "struct", "subprocess", "sunau", "symtable", "sys",
    "sysconfig", "syslog", "tabnanny", "tarfile", "telnetlib", "tempfile", "termios", "textwrap",
    "this", "threading", "time", "timeit", "tkinter", "token", "tokenize", "tomllib", "trace",
    "traceback", "tracemalloc", "tty", "turtle", "turtledemo", "types", "typing", "unicodedata",
    "unittest", "urllib", "uu", "uuid", "venv", "warnings", "wave", "weakref", "webbrowser", "winreg",
    "winsound", "wsgiref", "xdrlib", "xml", "xmlrpc", "zipapp", "zipfile", "zipimport", "zlib",
    "zoneinfo",
];

/// The Rust reference, "Keywords": strict and reserved, editions 2015 to 2024.
#[rustfmt::skip]
pub(super) const RUST: &[&str] = &[
    "as", "async", "await", "break", "const", "continue", "crate", "dyn", "else", "enum", "extern",
    "false", "fn", "for", "gen", "if", "impl", "in", "let", "loop", "match", "mod", "move", "mut",
    "pub", "ref", "return", "self", "Self", "static", "struct", "super", "trait", "true", "type",
    "unsafe", "use", "where", "while", "abstract", "become", "box", "do", "final", "macro", "override",
    "priv", "try", "typeof", "unsized", "virtual", "yield",
];

/// Crates of the toolchain, and folders that Cargo makes beside a crate's own.
pub(super) const RUST_TAKEN: &[&str] =
    &["alloc", "core", "std", "test", "proc_macro", "proc-macro", "build", "deps", "examples", "incremental"];

/// The Java Language Specification 3.9: reserved keywords, and the literals.
#[rustfmt::skip]
pub(super) const JAVA: &[&str] = &[
    "abstract", "assert", "boolean", "break", "byte", "case", "catch", "char", "class", "const",
    "continue", "default", "do", "double", "else", "enum", "extends", "final", "finally", "float",
    "for", "goto", "if", "implements", "import", "instanceof", "int", "interface", "long", "native",
    "new", "package", "private", "protected", "public", "return", "short", "static", "strictfp",
    "super", "switch", "synchronized", "this", "throw", "throws", "transient", "try", "void",
    "volatile", "while", "_", "true", "false", "null",
];

/// C17 6.4.1 and C23's new keywords.
#[rustfmt::skip]
pub(super) const C: &[&str] = &[
    "auto", "break", "case", "char", "const", "continue", "default", "do", "double", "else", "enum",
    "extern", "float", "for", "goto", "if", "inline", "int", "long", "register", "restrict", "return",
    "short", "signed", "sizeof", "static", "struct", "switch", "typedef", "union", "unsigned", "void",
    "volatile", "while", "alignas", "alignof", "bool", "constexpr", "false", "nullptr", "static_assert",
    "thread_local", "true", "typeof", "typeof_unqual",
];

/// C++20's keywords beyond those of C.
#[rustfmt::skip]
pub(super) const CPP: &[&str] = &[
    "and", "and_eq", "asm", "bitand", "bitor", "catch", "char8_t", "char16_t", "char32_t", "class",
    "compl", "concept", "consteval", "constinit", "const_cast", "co_await", "co_return", "co_yield",
    "decltype", "delete", "dynamic_cast", "explicit", "export", "friend", "mutable", "namespace", "new",
    "noexcept", "not", "not_eq", "operator", "or", "or_eq", "private", "protected", "public",
    "reinterpret_cast", "requires", "static_cast", "template", "this", "throw", "try", "typeid",
    "typename", "using", "virtual", "wchar_t", "xor", "xor_eq",
];

/// Names of C's standard library that projects are most likely to hit (C17 7.1.3).
#[rustfmt::skip]
pub(super) const C_STANDARD: &[&str] = &[
    "main", "printf", "scanf", "malloc", "calloc", "realloc", "free", "exit", "abort", "atexit",
    "system", "getenv", "time", "clock", "signal", "raise", "rand", "srand", "qsort", "bsearch", "abs",
    "labs", "div", "remove", "rename", "tmpfile", "tmpnam", "puts", "gets", "getc", "putc", "getchar",
    "putchar", "fopen", "fclose", "fread", "fwrite", "memcpy", "memmove", "memset", "memcmp", "strlen",
    "strcpy", "strcat", "strcmp", "strchr", "strstr", "strtok", "sin", "cos", "tan", "exp", "log",
    "pow", "sqrt", "ceil", "floor", "round", "index", "errno", "stdin", "stdout", "stderr",
];

/// Node.js 22, `require('node:module').builtinModules`, top level.
#[rustfmt::skip]
pub(super) const NODE: &[&str] = &[
    "assert", "async_hooks", "buffer", "child_process", "cluster", "console", "constants", "crypto",
    "dgram", "diagnostics_channel", "dns", "domain", "events", "fs", "http", "http2", "https",
    "inspector", "module", "net", "os", "path", "perf_hooks", "process", "punycode", "querystring",
    "readline", "repl", "stream", "string_decoder", "sys", "timers", "tls", "trace_events", "tty",
    "url", "util", "v8", "vm", "wasi", "worker_threads", "zlib",
];

/// Types that every file of Java, C# or Python sees.
#[rustfmt::skip]
pub(super) const CLASSES: &[&str] = &[
    "Boolean", "Byte", "Character", "Class", "Double", "Enum", "Error", "Exception", "False", "Float",
    "Integer", "Iterable", "Long", "Math", "Module", "None", "NotImplemented", "Number", "Object",
    "Override", "Package", "Process", "Record", "Runnable", "Runtime", "Short", "String", "System",
    "Thread", "Throwable", "True", "Void",
];

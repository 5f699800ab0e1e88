/** What others see of {= name =}, and what it needs. */
module {= package =} {
    // {= for library in libraries if library.scope != "test" and library.scope != "runtime" and not library.module.empty =}
    requires {= if library.scope == "provided" =}static {= end =}{= library.module =};
    // {= end =}
    // {= if not libraries.empty =}

    // {= end =}
    exports {= package =};
}

# {= does =}

{= place "python-log" =}

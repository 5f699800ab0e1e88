{= place "python-waitress" =}

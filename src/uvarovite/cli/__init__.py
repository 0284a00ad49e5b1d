"""The command line. Exit codes: 0 done, 1 failed, 2 what was asked for is wrong, 3 refused by a rule."""

"""The subcommands of ``wamplex``, one file each."""

# Exit codes; 0 is all done, 128 and more ended by a signal.
SOME_FAILED, USAGE = 1, 2

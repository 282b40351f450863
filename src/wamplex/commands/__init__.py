"""The subcommands of ``wamplex``, one file each."""

"""Starting things on this machine: demo, tests, a shop's server, the command line check."""

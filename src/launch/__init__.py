"""Starting things on this machine: the demo, the tests, a shop's server, the command line check."""

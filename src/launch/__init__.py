"""Starting things on this machine: the demo, the tests, a shop's server, and the command line check."""

"""Small faults planted in the core one at a time: ``./mole test mutants``."""

"""Small faults planted in the core, one at a time, to see whether the tests notice: ``./mole test mutants``."""

"""Station: the stack between crown and head, that is deck cut, base shims and final gasket."""

"""Station: the stack between crown and head: deck cut, base shims and final gasket."""

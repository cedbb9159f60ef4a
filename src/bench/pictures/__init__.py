"""Names that the first migration of the pictures imports."""

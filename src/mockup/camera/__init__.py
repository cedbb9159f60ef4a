"""Clay thickness from a picture: the reference card, edges of the clay, and their uncertainty, on plain arrays.

Decoding pictures and drawing marks on them is for the web application.
"""

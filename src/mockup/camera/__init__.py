"""Clay thickness from a picture: reference, edges of the clay, their uncertainty.

Decoding pictures and drawing marks on them is for the web application.
"""

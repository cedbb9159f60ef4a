"""The list of sentences: the core's messages with their values, and no docstring."""

from launch import texts

SOURCE = '''"""A docstring of the module."""
LIMIT = "Clay is cut with a sharp blade."
KEY = "key"


def f(low, high):
    """A docstring of the function."""
    return Fault("x", f"A gap of {low:g} to {mm(high)} at most.")
'''


def test_sentences_are_listed_with_their_values_and_docstrings_are_not():
    assert sorted(texts.texts_of(SOURCE)) == [
        (2, "Clay is cut with a sharp blade."),
        (8, "A gap of {low} to {mm(high)} at most."),
    ]


def test_the_list_of_the_core_has_its_messages(capsys):
    assert texts.main([]) == 0
    listed = capsys.readouterr().out
    assert "src/mockup/engine/gasket.py" in listed
    assert "A head gasket is {mm_range(0.05, 6)} thick." in listed
    assert "Return the" not in listed

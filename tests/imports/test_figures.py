"""The figures of this room against the book that a person keeps."""

from tests.figures import of_book, of_code


def test_every_figure_is_the_one_of_the_book_and_none_is_missing_there():
    assert of_code("imports") == of_book("imports")

"""The figures of this room against the book that a person keeps."""

from tests.figures import of_book, of_code


def test_every_figure_is_the_one_of_the_book_and_none_is_missing_there():
    assert of_code("visits") == of_book("visits")


def test_those_of_what_leads_a_visit_too():
    assert of_code("visiting") == of_book("visiting")

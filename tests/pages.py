"""Pages as they are read: without markup, each run of whitespace a single space."""

import re


def text_of(page) -> str:
    """The words of an answer of the test client."""
    text = re.sub(r"<[^>]+>", " ", page.content.decode())
    return re.sub(r"\s+", " ", text.replace("\u00a0", " "))


def markup_of(page) -> str:
    """Its markup with no whitespace at the edges of elements and no line breaks."""
    return re.sub(r"\s+", " ", page.content.decode()).replace("> ", ">").replace(" <", "<").replace(" >", ">")

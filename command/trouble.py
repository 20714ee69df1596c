"""The one error the command shows: a sentence on what is wrong and the way out."""


class Trouble(Exception):
    """Something the person at the keyboard can mend; the text says how."""

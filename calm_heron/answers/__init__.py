"""Answers saved as rows, with what they stand on."""

"""An app as small as one can be: what it takes to add a part of the work (see docs/architecture.md)."""

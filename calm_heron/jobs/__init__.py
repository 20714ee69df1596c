"""The queue of what is worked out behind the pages, its workers, and the operator's pages."""

"""PostgreSQL as the tests use it: the same, but it can be emptied between tests."""

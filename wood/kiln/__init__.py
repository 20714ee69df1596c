"""The kiln: published schedules and the moisture field run through them."""

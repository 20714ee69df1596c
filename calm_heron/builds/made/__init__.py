"""A build after it was made: what its parts were that day, what they do in their first year, and what was measured of them since."""

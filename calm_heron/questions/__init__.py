"""How a question is asked: one set of types for what is asked, answered and told, and one view for all that are registered."""

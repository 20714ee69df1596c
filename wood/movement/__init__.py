"""What moisture does to the size and shape of wood, and how a finish slows it."""

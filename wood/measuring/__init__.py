"""What instruments show of wood, and what it means: meters, scales, depth, several readings and lots."""

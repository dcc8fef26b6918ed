"""What stands outside the garden, simulated: a weather station's readings. Nothing here is real weather."""

"""The simulated vehicle's servers: instruments that other programs speak to as they would to real ones, over one world."""

"""A circuit sheet and everything computed from it: parts, faults, the nodal solver, the SPICE netlist, the drawing."""

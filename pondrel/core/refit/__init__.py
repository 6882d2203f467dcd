"""Fitting it right: what was opened closed in reverse, fasteners by their place, torque, and nothing left over."""

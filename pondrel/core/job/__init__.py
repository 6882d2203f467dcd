"""A job: one complaint on one vehicle, told by the entries of its record. What a job is and lacks is a pure function of them."""

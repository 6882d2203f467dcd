"""What is known of a vehicle besides its jobs: its number, how far it has gone, the parts that were fitted and their warranty."""

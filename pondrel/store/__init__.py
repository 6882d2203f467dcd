"""SQLite by plain SQL: one module per noun, numbered migrations, one place that opens connections and one that commits.

Readings, strikes and conclusions are append-only; triggers in the database hold that, not good manners.
"""

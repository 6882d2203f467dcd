"""The library's own rules: what a search means, and what a bundle of sheets may hold."""

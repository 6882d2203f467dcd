"""The simulated vehicle's control modules: they answer a tester, and what they say follows the circuit that they hang on."""

"""From readings to the one part at fault: hypotheses, their predictions, belief, the next test, and the proof."""

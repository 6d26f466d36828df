"""Electric circuits and what hangs on wires: loads, controls, mats, and the chain from counts to a temperature."""

"""What can be found wrong with rules at the desk, each with the part of the sentence and a mend."""

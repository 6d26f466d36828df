"""Electric circuits: what they carry, how many controls and modules they need, whether a mat is sound."""

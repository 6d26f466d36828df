"""The plain evaluator of rules: slow, step by step, the measure of the fast one."""

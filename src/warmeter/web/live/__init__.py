"""The live page: what is on now and why, what comes next, who waits for an answer, links, messages and the bench."""

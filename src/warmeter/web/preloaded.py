"""What all processes of the server have in common, loaded once: they are forked from it and share its memory."""

import gc

import warmeter.service.jobs.worker
import warmeter.service.live.process
import warmeter.service.live.stand_in
import warmeter.web.process  # noqa: F401
from warmeter.web.app import load_all_kernels

load_all_kernels()
gc.collect()
# What is looked at by the collector is written to, and what is written to is shared no longer.
gc.freeze()

"""The list of homes and the short form that makes one."""

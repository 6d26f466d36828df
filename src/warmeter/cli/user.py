"""Not as root where it can be helped."""

import os
import pwd
from pathlib import Path


def without_root(data_dir: Path) -> str:
    """Become the owner of the data folder if root is asked to run it; return what is to be said about it.

    Nothing is said to anybody but root. Where root owns the folder too, nothing can be given up.
    """
    if os.geteuid() != 0:
        return ""
    owner = data_dir.stat().st_uid if data_dir.exists() else 0
    try:
        account = pwd.getpwuid(owner)
    except KeyError:
        owner = 0
    if owner == 0:
        return (
            "Running as root: the database and every page process are root's too. Better make a user of its own, give "
            f"it the data folder (chown USER {data_dir}), and start again: Warmeter then runs as that user."
        )
    os.setgroups([])
    os.setgid(account.pw_gid)
    os.setuid(owner)
    os.environ |= {"HOME": account.pw_dir, "USER": account.pw_name, "LOGNAME": account.pw_name}
    return f"Started as root; running as {account.pw_name}, who owns {data_dir}."

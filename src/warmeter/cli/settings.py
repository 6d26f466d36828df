"""The settings of an install: the command's options before the environment's WARMETER_ variables before the defaults."""

import argparse
import os
from pathlib import Path
from typing import Annotated

from pydantic import Field, SecretStr, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from warmeter.core.errors import WarmeterError


class BadSetting(WarmeterError):
    """An option or a variable holds what cannot be used."""


class Settings(BaseSettings):
    """Where an install keeps its data, how it serves, and by which broker and mail server if not by its own."""

    model_config = SettingsConfigDict(env_prefix="WARMETER_", frozen=True)

    data_dir: Path = Path(__file__).parents[3] / ".warmeter" / "demo"
    port: Annotated[int, Field(ge=0, le=65535)] = 8470
    processes: Annotated[int, Field(ge=1, le=8)] = min(max(os.cpu_count() or 1, 2), 4)
    backups_kept: Annotated[int, Field(ge=0, le=30)] = 7
    open: bool = False
    broker_host: str = ""
    broker_port: Annotated[int, Field(ge=1, le=65535)] = 1883
    broker_user: str = ""
    broker_password: SecretStr = SecretStr("")
    mail_host: str = ""
    mail_port: Annotated[int, Field(ge=1, le=65535)] = 587
    mail_sender: str = "warmeter@localhost"
    mail_user: str = ""
    mail_password: SecretStr = SecretStr("")
    mail_encrypted: bool = True
    no_demo: bool = False
    no_live: bool = False


def settings_of(options: argparse.Namespace) -> Settings:
    """Return the settings with what a command was given.

    Raises
    ------
    BadSetting
        If a value cannot be used; it says which, and by which option or variable it is set.
    """
    given = {name: value for name, value in vars(options).items() if name in Settings.model_fields}
    try:
        return Settings(**given)
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][0])
        option, variable = "--" + name.replace("_", "-"), "WARMETER_" + name.upper()
        by = option if name in given else variable
        raise BadSetting(f"{by} is {first['input']!r}: {first['msg']}. Set it by {option} or {variable}.") from error

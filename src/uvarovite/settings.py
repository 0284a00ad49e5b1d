"""What an installation is told from outside: environment variables that begin with UVAROVITE_, or a file of such lines.

The environment comes first. Where it does not say where the database is, the file that `UVAROVITE_SETTINGS` names is
read, else the one beside a demo's data in the working directory.
"""

import os
from pathlib import Path
from typing import Literal

from pydantic import Field, SecretStr, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from uvarovite.core.responses import Keyring, derive_keyring
from uvarovite.core.values.bounds import fault_in_words

FILE = "settings.env"
BESIDE_THE_DEMO = Path(".uvarovite", FILE)


class SettingFault(Exception):
    """A setting is missing, or cannot be what it is; the message says which, and what to do."""


class Settings(BaseSettings):
    """Ports are on loopback unless `host` says otherwise; `secret_key` signs links, and seals passwords where there is no
    `sealing_key` for that.

    The database's URLs hold passwords; `reader_url` is that of the role which runs SQL by hand, empty where there is none, and
    `keeper_url` that of a superuser, for preparing the database alone.
    `name_server` is `host:port`, empty for the machine's own; SQLite files in `sources_dir` can be live sources, and
    databases on `source_hosts` (hosts divided by commas, each perhaps with a port), no others. `proxies` are the addresses
    of reverse proxies (divided by commas) that are believed where a request came from. At most `most_in_hand` messages of a worker are between their mark
    and the relay's answer: the bound of what becomes unknown when it dies. On `health_port` a process tells how it
    is (/health, /ready, /metrics); 0: it does not. On `mailbox_host` lies the mailbox that mail comes back to, read by IMAP;
    empty: there is none. `link_key` is the number of the key that new links are signed with; those before it go on working.
    """

    model_config = SettingsConfigDict(env_prefix="UVAROVITE_", extra="ignore")

    database_url: SecretStr = SecretStr("")
    reader_url: SecretStr = SecretStr("")
    keeper_url: SecretStr = SecretStr("")
    secret_key: SecretStr = Field(default=SecretStr(""))
    sealing_key: SecretStr = Field(default=SecretStr(""))
    link_key: int = Field(default=1, ge=1, le=250)
    host: str = "127.0.0.1"
    web_port: int = 8040
    smtp_port: int = 8041
    inbox_port: int = 8042
    inbound_port: int = 8043
    mailbox_host: str = ""
    mailbox_port: int = 993
    mailbox_security: Literal["tls", "starttls", "none"] = "tls"
    mailbox_user: str = ""
    mailbox_password: SecretStr = SecretStr("")
    mailbox_folder: str = "INBOX"
    database_port: int = 8044
    public_url: str = ""
    inbox_url: str | None = None
    name_server: str = ""
    names_port: int = 8045
    health_port: int = 0
    most_in_hand: int = Field(default=64, ge=1, le=4_096)
    sources_dir: Path | None = None
    source_hosts: str = ""
    proxies: str = ""
    web_dist: Path = Path(__file__).parents[2] / "web" / "dist"

    def secret(self) -> bytes:
        """The secret key. Raises SettingFault when it is missing or short."""
        key = self.secret_key.get_secret_value().encode()
        if len(key) < 16:
            raise SettingFault("Set UVAROVITE_SECRET_KEY to at least 16 random characters, the same for every process.")
        return key

    def keyring(self, *, rehearsed: bool = False) -> Keyring:
        """What links are signed with: the newest key signs, and all before it are known. Raises SettingFault."""
        return derive_keyring(self.secret(), tuple(range(1, self.link_key + 1)), rehearsed=rehearsed)

    def sealing(self) -> bytes:
        """The key that stored passwords and signing keys are sealed with. Raises SettingFault."""
        key = self.sealing_key.get_secret_value().encode()
        if key and len(key) < 16:
            raise SettingFault("UVAROVITE_SEALING_KEY needs at least 16 random characters.")
        return key or self.secret()

    def database(self) -> str:
        """The URL of the database, with its password: not to be shown. Raises SettingFault when it is missing."""
        url = self.database_url.get_secret_value()
        if not url:
            raise SettingFault(
                "Set UVAROVITE_DATABASE_URL to where the database is, name a file of settings in UVAROVITE_SETTINGS, or "
                "run this beside a demo's data (where .uvarovite is)."
            )
        return url

    def base_url(self) -> str:
        """Where recipients reach the public pages."""
        return self.public_url or f"http://{self.host}:{self.web_port}"


def load_settings(*, file: bool = True) -> Settings:
    """What this process is told; without `file` by the environment alone. Raises SettingFault."""
    named = os.environ.get("UVAROVITE_SETTINGS", "")
    if named and not Path(named).is_file():
        raise SettingFault(f"UVAROVITE_SETTINGS names {named}, and there is no such file.")
    read = Path(named) if named else BESIDE_THE_DEMO
    told = "UVAROVITE_DATABASE_URL" in os.environ or not file
    try:
        return Settings(_env_file=None if told else read)
    except ValidationError as fault:
        first = fault.errors()[0]
        variable = f"UVAROVITE_{str(first['loc'][0]).upper()}"
        raise SettingFault(f"{variable}: {fault_in_words(first)}") from None

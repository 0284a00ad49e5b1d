"""What an installation is told from outside: environment variables that begin with UVAROVITE_."""

from pathlib import Path

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Ports are on loopback unless `host` says otherwise; `secret_key` signs links and seals passwords.

    The database's URLs hold passwords; `reader_url` is that of the role which runs SQL by hand, empty where there is none, and
    `keeper_url` that of a superuser, for preparing the database alone.
    `name_server` is `host:port`, empty for the machine's own; SQLite files in `sources_dir` can be live sources, and
    databases on `source_hosts` (hosts divided by commas, each perhaps with a port), no others. `proxies` are the addresses
    of reverse proxies (divided by commas) that are believed where a request came from.
    """

    model_config = SettingsConfigDict(env_prefix="UVAROVITE_", extra="ignore")

    database_url: SecretStr = SecretStr("postgresql://uvarovite@127.0.0.1:8044/uvarovite")
    reader_url: SecretStr = SecretStr("")
    keeper_url: SecretStr = SecretStr("")
    secret_key: SecretStr = Field(default=SecretStr(""))
    host: str = "127.0.0.1"
    web_port: int = 8040
    smtp_port: int = 8041
    inbox_port: int = 8042
    database_port: int = 8044
    public_url: str = ""
    inbox_url: str | None = None
    name_server: str = ""
    names_port: int = 8045
    sources_dir: Path | None = None
    source_hosts: str = ""
    proxies: str = ""
    web_dist: Path = Path(__file__).parents[2] / "web" / "dist"

    def secret(self) -> bytes:
        """The secret key. Raises ValueError when it is missing or short."""
        key = self.secret_key.get_secret_value().encode()
        if len(key) < 16:
            raise ValueError("Set UVAROVITE_SECRET_KEY to at least 16 random characters, the same for every process.")
        return key

    def database(self) -> str:
        """The URL of the database, with its password: not to be shown."""
        return self.database_url.get_secret_value()

    def base_url(self) -> str:
        """Where recipients reach the public pages."""
        return self.public_url or f"http://{self.host}:{self.web_port}"

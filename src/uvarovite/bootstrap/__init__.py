"""The only place where the parts are put together."""

from uvarovite.bootstrap.clocks import Clock, system_clock
from uvarovite.bootstrap.database import open_database, prepare_roles, private_cluster
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.bootstrap.rehearsal import run_rehearsal
from uvarovite.bootstrap.sources import pull_tools, source_rules
from uvarovite.bootstrap.web import build_web, serve_web
from uvarovite.bootstrap.worker import build_housekeeper, build_worker, run_worker
from uvarovite.store.cluster import Cluster, ClusterFault
from uvarovite.store.database import Database, DatabaseUnreachable

__all__ = [
    "Clock",
    "Cluster",
    "ClusterFault",
    "Database",
    "DatabaseUnreachable",
    "build_housekeeper",
    "build_web",
    "build_worker",
    "open_database",
    "port_is_free",
    "prepare_roles",
    "private_cluster",
    "pull_tools",
    "run_rehearsal",
    "run_worker",
    "serve_web",
    "source_rules",
    "system_clock",
]

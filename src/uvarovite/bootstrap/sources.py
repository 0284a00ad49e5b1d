"""Other databases, reached from a process of their own."""

import functools

from uvarovite.bootstrap.clocks import Clock, system_clock
from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourcePreview
from uvarovite.net import source_process
from uvarovite.net.source_hosts import SourceRules
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.contacts.import_refusals import bad_import
from uvarovite.services.sources.jobs import PullTools
from uvarovite.settings import Settings


def pull_tools(settings: Settings, clock: Clock = system_clock) -> PullTools:
    """What pulling a live source needs."""
    return PullTools(
        read=functools.partial(source_process.read_source, rules=source_rules(settings)),
        secret=settings.sealing(),
        directory=settings.sources_dir,
        hasher=address_hasher(settings.secret()),
        clock=clock,
    )


def source_rules(settings: Settings) -> SourceRules:
    """Which databases may be a live source."""
    allowed = tuple(host.strip() for host in settings.source_hosts.split(",") if host.strip())
    return SourceRules(allowed=allowed, own=settings.database())


def tables_of(rules: SourceRules, access: SourceAccess) -> list[str]:
    """The tables that are there. Raises BadInput."""
    try:
        return source_process.tables_of(access, rules=rules)
    except SourceFault as fault:
        raise bad_import(fault.fault) from fault


def preview_source(rules: SourceRules, access: SourceAccess, ask: SourceAsk) -> SourcePreview:
    """The first rows of what is asked for. Raises BadInput."""
    try:
        return source_process.preview_source(access, ask, rules=rules)
    except SourceFault as fault:
        raise bad_import(fault.fault) from fault

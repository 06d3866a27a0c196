"""Asks many sites: in this process, or on Dask where the work outgrows it."""

from __future__ import annotations

import itertools
import os
from collections import deque
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from importlib.util import find_spec
from typing import Any

from davlo.core.faults import DavloError
from davlo.core.progress import work
from davlo.files.read.estate.estate_file import EstateFile, SiteFolder

from .site_answers import Question, Told, ask

LARGE = 1 << 24
"""Bytes of the sites' files from which on the sites are worked out by several processes."""
AHEAD = 4
"""How many sites may wait for each worker; more would only fill its memory."""
TRIES = 1
"""How often a site is tried again if its worker dies."""


class NoScheduler(DavloError):
    """The scheduler that was named cannot be reached, or Dask is not installed."""


def ask_all(
    estate: EstateFile, sites: Sequence[SiteFolder], question: Question, *words: Any, scheduler: str = ""
) -> Iterator[Told]:
    """Ask each site, and give the answers in the order of the sites.

    `scheduler`: the address of a Dask scheduler whose workers see the estate's folder. Without one, few or small sites
    are asked in this process, many by processes on this machine's cores. Raises NoScheduler if there is none.
    """
    with work("asking the sites", len(sites)) as step:
        told = _on_dask(estate, sites, question, words, scheduler) if _is_much(estate, sites, scheduler) else None
        for number, one in enumerate(sites):
            step(f"{number:,} of {len(sites):,}: {one.name}")
            yield ask(estate, one, question, *words) if told is None else next(told)


def _is_much(estate: EstateFile, sites: Sequence[SiteFolder], scheduler: str) -> bool:
    """Whether workers are worth their start."""
    if scheduler:
        return True
    if find_spec("distributed") is None or (os.cpu_count() or 1) < 2:
        return False
    size = 0
    for one in sites:
        try:
            with os.scandir(estate.folder / one.name) as files:
                size += (1 << 16) + sum(file.stat().st_size for file in files if file.is_file())
        except OSError:
            continue  # it cannot be read
    return size >= LARGE


def _on_dask(
    estate: EstateFile, sites: Sequence[SiteFolder], question: Question, words: Sequence[Any], scheduler: str
) -> Iterator[Told]:
    """The answers of sites that Dask's workers ask, in order; only some wait at a time."""
    with _client(scheduler) as client:

        def submit(one: SiteFolder) -> tuple[SiteFolder, Any]:
            return one, client.submit(ask, estate, one, question, *words, pure=False, retries=TRIES)

        left = iter(sites)
        threads = sum(client.nthreads().values()) or 1
        waiting = deque(map(submit, itertools.islice(left, AHEAD * threads)))
        while waiting:
            site, first = waiting.popleft()
            try:
                told = first.result()
            except Exception as error:  # its worker died more than once
                told = Told(site.name, None, (f"no worker could answer: {error}",))
            first.release()
            waiting.extend(map(submit, itertools.islice(left, 1)))
            yield told


@contextmanager
def _client(scheduler: str) -> Iterator[Any]:
    """A client of the named scheduler, or of one for this machine's cores."""
    try:
        import dask
        import distributed
    except ImportError:
        raise NoScheduler("--scheduler needs Dask: pip install 'davlo[estate]'") from None
    client_of: Any = distributed.Client
    if scheduler:
        try:
            client = client_of(scheduler, timeout=10, set_as_default=False)
        except (OSError, ValueError, TypeError) as error:
            raise NoScheduler(f"the scheduler {scheduler} cannot be reached: {error}") from None
        with client:
            yield client
        return
    local: Any = distributed.LocalCluster
    quiet = {"distributed.scheduler.allowed-failures": TRIES, "distributed.logging.distributed": "critical"}
    with (
        dask.config.set(quiet),
        local(processes=True, threads_per_worker=1, dashboard_address=None) as cluster,
        client_of(cluster, set_as_default=False) as client,
    ):
        yield client

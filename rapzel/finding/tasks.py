"""The queue's door to searches that take longer than a page waits. A job may run twice, so it begins anew."""

import logging

from django.db import (
    InterfaceError,
    OperationalError,
    close_old_connections,
    connections,
)
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from rapzel.finding import searching
from rapzel.finding.models import Finding

log = logging.getLogger(__name__)
_AGAIN = RetryStrategy(
    max_attempts=4,
    exponential_wait=4,
    retry_exceptions={OperationalError, InterfaceError},
)
_TOO_LARGE = "This search needs more memory than it may have. Choose fewer strobes or fewer lights and search again."


@app.task(queue="finding", name="find_settings", retry=_AGAIN)
def find_settings(finding_id: int) -> None:
    """Searches, and leaves no database connection behind in the worker's thread."""
    close_old_connections()
    try:
        searching.work(finding_id)
    except (OperationalError, InterfaceError):
        raise  # the database was away: the queue tries the job again
    except MemoryError:
        Finding.objects.filter(pk=finding_id).update(
            state=Finding.State.FAILED, says=_TOO_LARGE
        )
    except Exception:
        log.exception("search %s broke off", finding_id)
        Finding.objects.filter(pk=finding_id).update(
            state=Finding.State.FAILED, says="Something went wrong on Rapzel's side."
        )
    finally:
        connections.close_all()


def later(finding_id: int) -> None:
    """Puts a search into the queue, where those of one person come one after another."""
    owner = Finding.objects.values_list("scene__shoot__owner", flat=True).get(
        pk=finding_id
    )
    find_settings.configure(lock=f"searches of {owner}").defer(finding_id=finding_id)

"""Many machines: the workers of a `dask.distributed` scheduler hear the files of a folder.

They need Ghost Step of this version, and the folder under the same path: files are read and written where they lie.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from ghoststep.music.errors import InputError
from ghoststep.work.many import Elsewhere

_PATIENCE_S = 15.0
_MISSING = "Other machines are reached with the extra 'cluster': pip install 'ghost-step[cluster]'."


@contextmanager
def workers_of(address: str, *, patience_s: float = _PATIENCE_S) -> Iterator[Elsewhere]:
    """The workers of a scheduler, as an executor.

    Parameters
    ----------
    address
        As the scheduler tells it: tcp://HOST:PORT.
    patience_s
        How long to wait for the scheduler and a first worker.

    Raises
    ------
    InputError
        Where the extra is not installed, nobody answers, or the scheduler has no worker.
    """
    try:
        import distributed
        from distributed.scheduler import KilledWorker
    except ImportError as error:
        raise InputError(_MISSING) from error
    try:
        connected: Any = distributed.Client  # its own types are given in part only
        client: Any = connected(address, timeout=patience_s, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        raise InputError(f"No scheduler answers at {address}: is it running, and is the address right?") from error
    with client:
        try:
            client.wait_for_workers(1, timeout=patience_s)
        except TimeoutError as error:
            raise InputError(f"The scheduler at {address} has no worker: start one with 'dask worker'.") from error
        workers = sum(client.nthreads().values())
        # A task that took three workers down with it is given up; the scheduler tries it elsewhere until then.
        with client.get_executor(pure=False, retries=0) as executor:
            yield Elsewhere(executor, workers, (KilledWorker,))

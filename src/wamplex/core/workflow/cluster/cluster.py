"""Renders tiles on the workers of a dask scheduler."""

from __future__ import annotations

import ipaddress
import secrets
import threading
from collections import deque
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from wamplex.core.base.errors import ClusterError, DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.deliver.writers.tile_samples import tile_samples
from wamplex.core.model.assets import process_assets
from wamplex.core.model.recipe import Recipe
from wamplex.core.render.plan import Plan
from wamplex.core.workflow.cluster.tile_task import Refusal, TileTask, describe_worker, encode_task, make_tile

# Enough that no worker waits for the next tile, few enough that results do not pile up here.
_AHEAD_PER_WORKER = 3
_LARGEST_DIFFERENCE = 2 / 255  # of the whole range
_WAIT_S, _LOOK_S = 15, 0.1


class Cluster:
    """Makes tiles on the workers of a scheduler; a worker that goes is replaced by another.

    Parameters
    ----------
    address : of the scheduler, such as ``tls://10.0.0.5:8786``
    trust_network : whether an address of another computer may be used without TLS

    Raises
    ------
    ClusterError : when there is none, it has no workers, or one of them has another program or networks
    """

    def __init__(self, address: str, *, trust_network: bool = False) -> None:
        if not trust_network and not _is_protected(address):
            raise ClusterError(
                f"{address} is neither this computer nor protected by TLS. Whoever reaches the scheduler can run "
                "programs on the workers. Use tls://, or --trust-network in a network that you trust."
            )
        try:
            from distributed import Client
        except ImportError as error:
            raise ClusterError("For work on several machines, install: pip install 'wamplex[cluster]'") from error
        try:
            client_class: Any = Client  # which has no types
            self._client = client_class(address, timeout=_WAIT_S, set_as_default=False)
        except (OSError, ValueError) as error:
            raise ClusterError(f"There is no scheduler at {address}.") from error
        self._check()

    @property
    def workers(self) -> int:
        """How many tiles can be made at once."""
        return max(1, int(sum(self._client.nthreads().values())))

    def of(self, recipe: Recipe) -> ClusterRenderer:
        """Renderer for the tiles of a recipe.

        Parameters
        ----------
        recipe : all decisions about the picture
        """
        return ClusterRenderer(self, recipe)

    def close(self) -> None:
        """Disconnect from the scheduler."""
        self._client.close()

    def ordered(self, tasks: Sequence[TileTask], progress: Progress) -> Iterator[Samples]:
        """Results of tasks, in their order.

        Parameters
        ----------
        tasks : tiles
        progress : receives the progress; cancelling it raises `Cancelled`

        Raises
        ------
        DeliveryError : when one cannot be made
        Cancelled : when ``progress`` is cancelled; no worker goes on with it then
        """
        waiting: deque[Any] = deque()
        left = deque(tasks)
        try:
            while waiting or left:
                while left and len(waiting) < _AHEAD_PER_WORKER * self.workers:
                    waiting.append(self._client.submit(make_tile, left.popleft(), pure=False, retries=3))
                yield self._result(waiting.popleft(), progress)
        finally:
            self._client.cancel(list(waiting))

    def _result(self, future: Any, progress: Progress) -> Samples:
        # Asked for with a timeout, a result that is on its way when the time is up comes to nothing.
        ready = threading.Event()
        future.add_done_callback(lambda _: ready.set())
        while not ready.wait(_LOOK_S):
            progress.check()
        progress.check()
        try:
            result = future.result()
        except Exception as error:
            raise DeliveryError(f"The workers could not render a part of the picture: {error}.") from error
        if isinstance(result, Refusal):
            raise DeliveryError(result.text)
        return result  # type: ignore[no-any-return]

    def _check(self) -> None:
        answers = self._client.run(describe_worker)
        if not answers:
            self.close()
            raise ClusterError("The scheduler has no workers. Start some: dask worker ADDRESS")
        mine = describe_worker()
        for worker, text in answers.items():
            if text != mine:
                self.close()
                raise ClusterError(f"The worker {worker} has {text}; this computer has {mine}.")


def _is_protected(address: str) -> bool:
    """Whether an address is one of this computer, or uses TLS."""
    scheme, _, rest = address.partition("://")
    host = rest.rpartition(":")[0].strip("[]") or rest
    if scheme in ("tls", "inproc"):
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


class ClusterRenderer:
    """Makes the tiles of one file.

    Parameters
    ----------
    cluster : the connected workers
    recipe : all decisions about the picture
    """

    def __init__(self, cluster: Cluster, recipe: Recipe) -> None:
        self._cluster, self._recipe = cluster, recipe

    def tiles(
        self,
        planned: Plan,
        delivery: Delivery,
        about: FileDescription,
        places: Sequence[Window],
        progress: Progress,
    ) -> Iterator[Samples]:
        """The samples of each place of the file.

        Parameters
        ----------
        planned : the plan
        delivery : kind of file, folder and name
        about : what the file should hold
        places : rectangles of the file, in pixels
        progress : receives the progress; cancelling it raises `Cancelled`
        """
        source = planned.picture.source
        if source is None:
            raise DeliveryError("A picture without a file cannot be rendered on other machines.")
        parts = [process_assets().get(ref) for ref in self._recipe.finish.parts]
        texts = encode_task(self._recipe, delivery, parts)
        recipe, how, part_texts = texts
        name, digest = str(source.path.absolute()), source.digest
        corners = [(place.x, place.y, place.width, place.height) for place in places]
        tasks = [TileTask(name, digest, recipe, how, corner, part_texts) for corner in corners]
        checked = secrets.randbelow(len(places))  # so that a worker cannot know which
        for number, tile in enumerate(self._cluster.ordered(tasks, progress)):
            _refuse_misshapen(tile, places[number], about)
            if number == checked:
                _refuse_wrong(tile, tile_samples(planned, delivery, about, places[number], progress))
            yield tile


def _refuse_misshapen(tile: object, place: Window, about: FileDescription) -> None:
    meant = (place.height, place.width, about.channels)
    if not isinstance(tile, np.ndarray) or tile.shape != meant or tile.dtype != np.dtype(f"uint{about.depth}"):
        raise DeliveryError("A worker returned something that is not the part it was asked for. Nothing was written.")


def _refuse_wrong(tile: Samples, ours: Samples) -> None:
    """Compare a tile with our own; another processor may round otherwise, which is far below a visible step."""
    if int(np.abs(tile.astype(np.int64) - ours).max()) > np.iinfo(ours.dtype).max * _LARGEST_DIFFERENCE:
        raise DeliveryError(
            "A worker returned other pixels than this computer renders. Nothing was written; "
            "check the workers, or render without --cluster."
        )

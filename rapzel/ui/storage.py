"""Files are stored whole or not at all."""

import contextlib
import errno
from typing import Any

from django.core.files.storage import FileSystemStorage
from whitenoise.storage import CompressedManifestStaticFilesStorage

from rapzel.core.shared.errors import CoreError

FULL = (errno.ENOSPC, errno.EDQUOT)
NO_ROOM = "Rapzel's disk is full. Nothing was stored; tell who runs this site, and try again later."


class StorageFull(CoreError):
    """There is no room on the disk; str() is fit to show."""


class WholeFiles(FileSystemStorage):
    """The file system; what could not be written to its end leaves nothing behind."""

    def _save(self, name: str, content: Any) -> str:
        try:
            # Django documents _save as the place for this; its type stubs do not know it.
            return str(super()._save(name, content))  # type: ignore[misc]
        except OSError as error:
            with contextlib.suppress(OSError):
                # the name was free a moment ago, so what stands there is our own
                self.delete(name)
            if error.errno in FULL:
                raise StorageFull(NO_ROOM) from error
            raise


class HashedFiles(CompressedManifestStaticFilesStorage):
    """Static files under names with a hash of what they hold; scripts import each other by these names, too."""

    support_js_module_import_aggregation = True

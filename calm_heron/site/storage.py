"""Static files named by a digest of their content, imported modules included, so that browsers may cache them for ever."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class Hashed(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Compressed and named by their contents; an ``import`` in a module leads to the hashed name, too."""

    support_js_module_import_aggregation = True

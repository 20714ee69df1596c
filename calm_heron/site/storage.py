"""Static files under names that change with what is in them, modules and what they import included: they are kept for ever."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class Hashed(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Compressed and named by their contents; an ``import`` in a module leads to the hashed name, too."""

    support_js_module_import_aggregation = True

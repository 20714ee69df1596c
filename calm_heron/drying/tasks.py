"""This app's jobs, where the queue looks for them."""

from calm_heron.drying.forecasts import renew_forecasts

__all__ = ["renew_forecasts"]

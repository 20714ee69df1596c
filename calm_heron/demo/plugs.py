"""What the demo brings to the pages that are composed."""

from calm_heron.demo.scenario import SET_UP
from calm_heron.plugs import LOG_KINDS, LogKind

LOG_KINDS.add(LogKind(95, SET_UP, words={"set_up": "The demo workshop was set up"}))

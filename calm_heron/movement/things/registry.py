"""Every thing that can be asked about, by its key."""

from calm_heron.movement.things import frames, ground, joints, plates, tops
from calm_heron.movement.things.thing import Thing

THINGS: dict[str, Thing] = {
    each_thing.key: each_thing
    for each_thing in sorted((*tops.THINGS, *frames.THINGS, *ground.THINGS, *plates.THINGS, *joints.THINGS), key=lambda thing: thing.order)
}

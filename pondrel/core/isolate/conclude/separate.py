"""What would tell the parts of a group apart that no test on offer separates."""

from __future__ import annotations

from ...circuit.sheet import Sheet

__all__ = ["separators"]


def separators(sheet: Sheet, group: tuple[str, ...]) -> tuple[str, ...]:
    """Sentences: unplugging, swapping, opening a place between them, moving a joint; none for a single part."""
    if len(group) < 2:
        return ()
    ways: list[str] = []
    plugged = [name for name in group if sheet.parts[name].kind.load is not None or sheet.parts[name].kind.holder]
    if plugged:
        ways.append(f"Unplug or swap {plugged[0]} and say what happened: swap {plugged[0]} gone, or swap {plugged[0]} no change.")
    nodes = [set(sheet.parts[name].pins.values()) for name in group]
    between = sorted({n for i, one in enumerate(nodes) for other in nodes[i + 1 :] for n in one & other} - set(sheet.places))
    if between:
        ways.append(f"Open a place at {between[0]}: it lies between them.")
    joints = [name for name in group if sheet.parts[name].kind.joint]
    if joints:
        ways.append(f"Wiggle {joints[0]} while the circuit works and watch: wiggle {joints[0]} changed, or no change.")
    return tuple(ways) or ("Open a place between them.",)

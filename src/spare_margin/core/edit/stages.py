"""On which stage of a job a change of the wiring is made."""

from spare_margin.core.model.jobs import Stage


def stage_for(on_screen: Stage, measured: bool, correct: bool) -> Stage:
    """The stage that a change goes to.

    Once something was measured as found, a change there is part of the plan, unless it corrects the
    drawing.

    Args:
        on_screen: the stage that is looked at.
        correct: whether it corrects what was found, and changes nothing.

    >>> stage_for("as_found", True, False), stage_for("as_found", True, True)
    ('planned', 'as_found')
    """
    return "planned" if on_screen == "as_found" and measured and not correct else on_screen

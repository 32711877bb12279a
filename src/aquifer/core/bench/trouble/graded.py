"""What a search for a fault is worth, against what was really wrong and what the trade asks of whoever looks."""

from aquifer.core.bench.grading import PASSES_AT, Grade
from aquifer.core.bench.mark import Mark
from aquifer.core.bench.trouble.rig import Fault
from aquifer.core.bench.trouble.search import Search


def graded(search: Search) -> Grade:
    """The grade of a search as it stands. Source of the order: the trade practice of the steps named in ``read``."""
    marks = (*_found(search), *_mended(search), *_careful(search), *_said(search))
    share = sum(mark.good for mark in marks) / len(marks)
    passed = not search.harms and share >= PASSES_AT and all(mark.good for mark in marks if mark.must)
    return Grade(marks, share, passed)


def truth(search: Search) -> Fault:
    """What was wrong."""
    return search.rig.faults[search.trouble.fault]


def _found(search: Search) -> list[Mark]:
    rig, fault = search.rig, truth(search)
    good = search.cause == search.trouble.fault
    noted = rig.faults[search.cause].says if search.cause else "nothing"
    says = f"The cause, as you noted: {fault.says}." if good else f"The cause: {fault.says}. You noted: {noted}."
    sound = sorted(set(rig.renewed))
    titles = [point.title.lower() for point in rig.points if point.name in sound]
    return [
        Mark("cause", good, says, True, "complaint.which"),
        Mark(
            "kept",
            not sound,
            "No sound part was thrown away."
            if not sound
            else f"Sound, or not the cause, and yet renewed: {', '.join(titles)}.",
            False,
            "complaint.scope",
        ),
    ]


def _mended(search: Search) -> list[Mark]:
    rig, fault = search.rig, truth(search)
    is_mended = search.trouble.fault not in rig.unfit
    wrong = rig.wrong()
    runs = (is_mended or fault.mended_by is None) and (rig.heats() or fault.runs) and not wrong
    waits = fault.may_wait and not is_mended and rig.is_off()
    if fault.mended_by is None and fault.may_wait:
        # Nothing mends it, and it is not left running.
        runs = False
    good = runs or waits
    if waits:
        says = "It was left off, and nobody turns it on by accident."
    elif good:
        says = "It was left as a heater that runs."
    elif wrong and not fault.may_wait:
        says = f"It was left {', '.join(wrong)}."
    else:
        says = "What was wrong is wrong still." if not is_mended else f"It was left {', '.join(wrong) or 'cold'}."
    return [Mark("left_fit", good, says, True, "energise.setting" if not fault.may_wait else "leave_off.tag")]


def _careful(search: Search) -> list[Mark]:
    marks = []
    if search.rig.touched_unproven is not None:
        good = not search.rig.touched_unproven
        marks.append(
            Mark(
                "proved",
                good,
                "The terminals were proven dead before a hand was at them."
                if good
                else "A hand was at the terminals that nobody had proven dead.",
                True,
                "prove_dead.measure",
            )
        )
    if any(point.name == "gas_joints" for point in search.rig.points):
        sniffed = next((act.at_s for act in search.acts if act.handle == "air"), None)
        first = next((act.at_s for act in search.acts if act.handle not in ("air", "house")), None)
        good = sniffed is not None and (first is None or sniffed <= first)
        marks.append(
            Mark(
                "sniffed",
                good,
                "You sniffed before anything was touched." if good else "Nobody sniffed before anything was touched.",
                False,
                "arrival.air",
            )
        )
    return marks


def _said(search: Search) -> list[Mark]:
    rig, minutes = search.rig, search.now_s / 60
    quick = minutes <= search.trouble.within_min
    # Who empties a house that smells of gas has told it.
    told, after = rig.told or rig.is_emptied, rig.told_after or rig.is_emptied
    return [
        Mark(
            "told",
            told,
            "The house knew what you were about." if told else "The house was told nothing before.",
            False,
            "arrival.greet",
        ),
        Mark(
            "said_after",
            after,
            "The customer heard what it was." if after else "The customer was told nothing at the end.",
            False,
            "hand_over.explain",
        ),
        Mark(
            "in_time",
            quick,
            f"It took {minutes:.0f} minutes of {search.trouble.within_min:.0f}.",
            False,
            "complaint.which",
        ),
    ]

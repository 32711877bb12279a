"""What people ring for, and what is said to them first: by the telephone, before anybody goes.

Words and orders are trade practice (the cautions of the report and of the visit, in a caller's words); local rules and
the heater's own instructions come first. Minutes are for looking into it, without what is due. Assumption.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Call:
    """A usual call."""

    name: str
    says: str
    """What the caller says, as short as a button."""
    first: tuple[str, ...]
    """Told to them at once, the most urgent first."""
    ask: tuple[str, ...] = ()
    """Asked of them, since it decides who goes and when."""
    reason: str = "complaint"
    """What a visit for it is booked as, empty where none is."""
    minutes: int = 60
    is_urgent: bool = False
    """Somebody goes today."""


_GAS = (
    "Everybody out now. Touch no switch, no telephone and no flame inside; leave the door open behind you.",
    "Call the gas supplier or the fire service from outside, and wait there. We come when they say that we may.",
)
_CO = (
    "A carbon monoxide alarm, headache or dizziness: everybody out, call the fire service from outside.",
    "Nobody goes back in, and the heater stays off, until it was measured.",
)
_SHUT = (
    "If you can do it with dry feet: shut the cold valve above the heater, or the main, then switch off its breaker, "
    "or turn its gas valve off.",
    "Keep out of standing water near wires. Hot water scalds: do not open the drain yourself.",
)
_LEAVE_ON = "Leave it on until we come: what it does tells us most. Off at once if it leaks, smells, roars or trips."
_SCALD = (
    "It can scald within a second. Let nobody bathe or shower; mix cold in first, and test it with the wrist.",
    "Turn the dial down if it is plain to reach; leave a cover with wires behind it closed.",
)
_FAULT = (_LEAVE_ON, "A breaker that has tripped is switched on once at most; a burner is lit by its own instructions.")
CALLS = (
    Call("gas", "Smell of gas", _GAS, (), "emergency", 90, True),
    Call("co", "CO alarm, or feeling ill", _CO, (), "emergency", 90, True),
    Call(
        "leak",
        "Water on the floor",
        _SHUT,
        ("Does it run, drip or only stand? Where from: a joint, the pipe at the side, or below the tank?",),
        "emergency",
        90,
        True,
    ),
    Call(
        "relief",
        "The relief pipe runs",
        (
            "If it roars or steams: gas or breaker off, leave the cold water ON, keep away from the pipe.",
            "Never cap or plug it. If it drips only: put a bucket under it, and tell us how full it gets in an hour.",
        ),
        ("Does it drip only while it heats, or always?",),
        "emergency",
        60,
        True,
    ),
    Call(
        "cold",
        "No hot water",
        _FAULT,
        ("Since when, and at every faucet? Is its breaker on, or its flame or light to be seen?",),
    ),
    Call(
        "lukewarm", "Lukewarm", (_LEAVE_ON,), ("At every faucet, or at one only? Since when? Did anybody turn a dial?",)
    ),
    Call("hot", "Too hot", _SCALD, ("At every faucet? Did anybody turn a dial?",), "complaint", 60, True),
    Call("weak", "Weak hot water", (_LEAVE_ON,), ("Is the cold as weak? At every faucet, or at one only?",)),
    Call(
        "noise",
        "It pops or rumbles",
        (_LEAVE_ON,),
        ("Only while it heats? When was it last flushed?",),
        "complaint",
        75,
    ),
    Call("rust", "Rusty or smelly water", (_LEAVE_ON,), ("Only the hot, or the cold too? Only in the morning?",)),
    Call(
        "again",
        "Not right after our visit",
        (_LEAVE_ON, "If it leaks from where we worked: shut the cold valve above the heater."),
        ("What is otherwise than before we came?",),
        "call_back",
        45,
    ),
    Call(
        "price",
        "What does it cost?",
        ("What is agreed and due is priced on the heater's page; a new heater is quoted after somebody has looked.",),
        ("For the service, a repair or a new heater?",),
        "estimate",
        45,
    ),
    Call(
        "install",
        "A new heater",
        ("We look first: place, vent, gas or power, drain. Then there is a written offer.",),
        ("What stands there now, and does it leak?",),
        "estimate",
        60,
    ),
    Call(
        "moved",
        "They moved, or sold",
        ("Thank you for telling us. Who lives there now, and how are they reached?",),
        (),
        "",
        0,
    ),
)
"""In the order in which they must be heard."""

"""Lines of job books that were put down before they were tried: above all, what was not done or not well is never taken
for what was."""

import pytest

from aquifer.formats.job_text import findings


@pytest.mark.parametrize(
    ("line", "means"),
    [
        # What was not done, and why.
        ("checked T&P, did not exercise (customer not ok with it, old valve)", []),
        ("Cust declined anode replacement. Flushed only.", ["flush"]),
        ("Did not flush - drain valve corroded, afraid of leak", []),
        ("Anode zu 60 % verbraucht, nicht getauscht", ["anode_inspection half"]),
        ("Anode erneuern empfohlen", []),
        ("anode 50% gone, did not replace", ["anode_inspection half"]),
        ("no sediment seen, anode not pulled (overhead clearance)", []),
        ("set up for flush, shut off valve broken so no flush done", []),
        ("flushed tank but T&P not tested, no drain pan", ["flush"]),
        ("swapped T&P for new one because corroded, old one never tested", ["relief_valve_replacement"]),
        ("Kunde wünscht keine Spülung", []),
        ("Quote: replace anode $189, T&P $120, flush $149", []),
        # Who did it, and when, is told by another.
        ("WH flushed by previous company 2023", []),
        ("burner cleaned, anode replaced under warranty by others", []),
        ("Customer replaced T&P himself last month", []),
        ("T&P replaced 2022 per tag. tested ok today", []),
        ("anode looks like it was replaced recently", []),
        ("Replaced gas valve. Anode was fine last year per notes.", []),
        ("flushed WH per customer request, got 2 qts", ["flush moderate 1.89"]),
        # Other things are flushed, too.
        ("power flush of heating system", []),
        ("Toilet flush valve replaced, anode rod in WH checked 50%", ["anode_inspection half"]),
        # What is not well.
        ("Sicherheitsventil geprüft, tropft nach", ["relief_valve_exercise flows_and_weeps"]),
        ("groupe de sécurité testé, goutte", ["relief_valve_exercise flows_and_weeps"]),
        # What is well is something else.
        ("replaced anode, gas pressure ok", ["anode_replacement"]),
        ("anode pulled, customer good with price", []),
        ("checked anode, all looks good", ["anode_inspection like_new"]),
        ("T&P tested, works fine", ["relief_valve_exercise flows_and_reseats"]),
        # What stood in it was not flushed out of it.
        ("Replaced both elements. lower element was buried in sediment", ["look_over"]),
        # Parts of a measure, and measures of a flow.
        ("Flush: got about 3/4 bucket of sand", ["flush heavy 14.25"]),
        ("flushed, 1 1/2 qts sand", ["flush moderate 1.42"]),
        ("flushed, half a bucket", ["flush heavy 9.5"]),
        ("2 qts of sand", ["flush moderate 1.89"]),
        ("flushed heater, no sediment", ["flush none"]),
        ("descale 1 hr, before 3.1 gpm after 5.6 gpm", ["descale 11.73 21.2"]),
        ("Wärmetauscher entkalkt, Durchfluss vorher 8,5 l/min nachher 12 l/min", ["descale 8.5 12.0"]),
        ("descaled w/ 4 gal vinegar 1 hr, before 3.1 gpm after 4.8", ["descale 11.73 18.17"]),
        ("DLE entkalkt, vorher 4,2 l/min, nachher 6,8", ["descale 4.2 6.8"]),
        ("descaled, before 3.1 after 4.8", ["descale"]),
        ('anode 3/8" dia left, nipple rotted', ["anode_inspection 9.5"]),
        ("Anode 5 mm Restdurchmesser", ["anode_inspection 5.0"]),
        ('ran 3/4" hose, anode checked', []),
        # What it was, and was not.
        ("T&P pipe turned down. Flush n/a, valve clogged", []),
        ("Drained tank for plumber, not a flush", []),
        ("pulled drain valve and shop-vacced tank, got 40 lbs", ["flush heavy"]),
        ("vacuumed out 2 lbs of scale", ["flush moderate"]),
        ("flushed at 65 lbs", ["flush"]),
        (
            "rod stuck, used impact. about 1/4 left, put in powered anode",
            ["anode_inspection mostly_gone", "anode_replacement"],
        ),
        ("rotten egg smell - swapped mag for alum/zinc", ["anode_replacement"]),
        ("T and P tested ok", ["relief_valve_exercise flows_and_reseats"]),
        # Other tongues.
        ("Sicherheitsgruppe tropft dauernd -> Druckminderer neu 4 bar", ["relief_valve_exercise flows_and_weeps"]),
        ("Anode 60 % weg -> neu", ["anode_inspection half", "anode_replacement"]),
        ("MAG voll Wasser, ersetzt", ["expansion_tank_check water", "expansion_tank_replacement"]),
        ("Heizflansch ausgebaut, 4 kg Kalk entfernt, Dichtung + Anode neu", ["flush heavy", "anode_replacement"]),
        ("Spülung durchgeführt, viel Schlamm", ["flush heavy"]),
        ("Speicher gereinigt, 5 Liter Kalk entfernt, Anode erneuert", ["flush 5.0", "anode_replacement"]),
        (
            "Boiler ontkalkt, anode vervangen, inlaatcombinatie getest ok",
            ["descale", "anode_replacement", "relief_valve_exercise flows_and_reseats"],
        ),
        (
            "détartrage complet, anode changée, groupe de sécurité OK",
            ["descale", "anode_replacement", "relief_valve_exercise flows_and_reseats"],
        ),
        ("détartrage complet, anode pas changée", ["descale"]),
        (
            "Purga del tanque, mucho sarro, ánodo gastado, se cambió",
            ["flush", "anode_inspection gone", "anode_replacement"],
        ),
    ],
)
def test_a_line_says_what_was_done_and_nothing_that_was_not(line, means):
    told = (
        "task", "grade", "diameter_mm", "outcome", "at_valve", "removed", "removed_l", "flow_before_l_min",
        "flow_after_l_min",
    )  # fmt: skip
    found = [" ".join(str(one[name]) for name in told if name in one) for one in findings(line)]
    assert found == means

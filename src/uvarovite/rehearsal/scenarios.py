"""Scenarios: ways for the simulated world to be, by name."""

from uvarovite.rehearsal.providers import Certificate, Manner, Provider, Scenario, Stage

_DROPS = dict.fromkeys(Stage, 0.02)

SCENARIOS: dict[str, Scenario] = {
    scenario.name: scenario
    for scenario in (
        Scenario(name="ordinary", about="Each provider in its own manner, as on any day."),
        Scenario(name="calm", about="Everything is accepted at once.", providers={}),
        Scenario(
            name="greylisted",
            about="Every provider tells strangers to come back later.",
            providers={},
            others=Provider(domain="", manner="greylists", greylists=True),
        ),
        Scenario(
            name="crowded",
            about="Few connections, few messages on each, and limits for a minute and an hour.",
            manner=Manner(connections=2, messages_a_connection=20),
            providers={},
            others=Provider(domain="", manner="limits how fast it takes messages", per_window=60, per_hour=600),
        ),
        Scenario(
            name="full",
            about="Many mailboxes are full, and some messages are refused after they were read.",
            providers={},
            others=Provider(domain="", manner="full mailboxes", full_share=0.2, late_share=0.05, unknown_share=0.02),
        ),
        Scenario(
            name="slow",
            about="The relay takes half a second for each reply.",
            is_quick=False,
            manner=Manner(delay_seconds=0.5),
        ),
        Scenario(
            name="old",
            about="The relay knows neither pipelining nor international addresses, and takes 60 kB at most.",
            manner=Manner(pipelining=False, smtputf8=False, largest_bytes=60_000),
        ),
        Scenario(
            name="encrypted",
            about="The relay takes nothing without TLS.",
            is_quick=False,
            manner=Manner(certificate=Certificate.ITS_OWN, must_encrypt=True),
        ),
        Scenario(
            name="other-name",
            about="The relay's certificate is for another name.",
            is_quick=False,
            manner=Manner(certificate=Certificate.OTHER_NAME, must_encrypt=True),
        ),
        Scenario(
            name="expired",
            about="The relay's certificate has expired.",
            is_quick=False,
            manner=Manner(certificate=Certificate.EXPIRED, must_encrypt=True),
        ),
        Scenario(
            name="turned-away",
            about="The relay takes nothing from us any more.",
            manner=Manner(refuses_us="550 5.7.1 You are sending too much that nobody wants"),
        ),
        Scenario(
            name="shaky",
            about="The relay drops connections at every stage, also after it has taken a message.",
            manner=Manner(drops=_DROPS),
        ),
        Scenario(
            name="returned",
            about="Everything is taken; later reports come back of some, and complaints.",
            is_quick=False,
            providers={},
            others=Provider(domain="", manner="sends word later", report_share=0.15, complaint_share=0.05),
        ),
        Scenario(
            name="bad-week",
            about="Nearly everything at once: dropped connections, limits, greylisting, full mailboxes, late refusals.",
            manner=Manner(drops=_DROPS, messages_a_connection=50),
            others=Provider(domain="", manner="has a bad week", full_share=0.1, late_share=0.03, per_window=200),
        ),
    )
}

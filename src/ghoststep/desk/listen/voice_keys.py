"""Which key says that a hit is which voice; the rows of `session.commands.listen` have the same."""

VOICE_KEYS: tuple[tuple[str, str], ...] = (
    ("1", "kick"), ("2", "snare"), ("3", "cross_stick"), ("4", "hat_closed"), ("5", "hat_half"), ("6", "hat_open"),
    ("7", "hat_pedal"), ("8", "ride"), ("9", "crash"), ("0", "tom_mid"), ("U", "tom_high"), ("J", "tom_low"),
    ("E", "ride_bell"), ("Z", "splash"),
)  # fmt: skip

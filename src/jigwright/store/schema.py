"""Tables of the studio database and the steps from one version to the next."""

from __future__ import annotations

APPLICATION_ID = 0x4A494757  # "JIGW"
VERSION = 13
TYPED_FACTS = 8  # facts of takes have tables of their own

_V1 = """
CREATE TABLE player (id TEXT PRIMARY KEY, name TEXT NOT NULL);
CREATE TABLE instrument (
    id TEXT PRIMARY KEY, name TEXT NOT NULL, kind TEXT NOT NULL, strings TEXT NOT NULL);
CREATE TABLE jig (
    id TEXT NOT NULL, revision INTEGER NOT NULL, title TEXT NOT NULL, body TEXT NOT NULL,
    created_utc TEXT NOT NULL, PRIMARY KEY (id, revision));
CREATE TABLE take (
    id TEXT PRIMARY KEY, jig_id TEXT, jig_revision INTEGER, player_id TEXT NOT NULL,
    instrument_id TEXT NOT NULL, recorded_utc TEXT NOT NULL, utc_offset_min INTEGER NOT NULL,
    audio TEXT NOT NULL, sha256 TEXT NOT NULL, source_name TEXT NOT NULL, duration_s REAL NOT NULL,
    a4_hz REAL NOT NULL, reference TEXT NOT NULL, tolerance_cents REAL NOT NULL,
    input_name TEXT NOT NULL, mark TEXT NOT NULL DEFAULT '', binned INTEGER NOT NULL DEFAULT 0,
    FOREIGN KEY (jig_id, jig_revision) REFERENCES jig (id, revision),
    FOREIGN KEY (player_id) REFERENCES player (id),
    FOREIGN KEY (instrument_id) REFERENCES instrument (id));
CREATE TABLE heard (
    take_id TEXT PRIMARY KEY REFERENCES take (id), method_version INTEGER NOT NULL,
    contours TEXT NOT NULL, sample_rate_hz INTEGER NOT NULL, n_channels INTEGER NOT NULL,
    i_channel INTEGER NOT NULL, noise_dbfs REAL NOT NULL, duration_s REAL NOT NULL,
    warnings TEXT NOT NULL);
CREATE TABLE segment (
    take_id TEXT NOT NULL REFERENCES take (id), i INTEGER NOT NULL, onset_s REAL NOT NULL,
    offset_s REAL NOT NULL, core_start_s REAL NOT NULL, core_end_s REAL NOT NULL,
    f0_hz REAL NOT NULL, uncertainty_cents REAL NOT NULL, spread_cents REAL NOT NULL,
    drift_cents_per_s REAL NOT NULL, level_dbfs REAL NOT NULL, attack_db REAL NOT NULL,
    clarity REAL NOT NULL, slurred INTEGER NOT NULL, PRIMARY KEY (take_id, i));
CREATE TABLE journal (
    n INTEGER PRIMARY KEY AUTOINCREMENT, utc TEXT NOT NULL, operation TEXT NOT NULL,
    inverse TEXT NOT NULL, undone INTEGER NOT NULL DEFAULT 0);
CREATE INDEX take_by_jig ON take (jig_id, recorded_utc);
"""

_V2 = """
CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL);
"""

_V3 = """
ALTER TABLE segment ADD COLUMN i_pair INTEGER NOT NULL DEFAULT -1;
"""

_V4 = """
CREATE TABLE day_note (
    player_id TEXT NOT NULL REFERENCES player (id), day TEXT NOT NULL, word TEXT NOT NULL,
    liking INTEGER NOT NULL, notes TEXT NOT NULL, next_time TEXT NOT NULL,
    PRIMARY KEY (player_id, day));
CREATE TABLE summary (
    take_id TEXT PRIMARY KEY REFERENCES take (id), inputs TEXT NOT NULL, body TEXT NOT NULL);
"""

_V5 = """
CREATE TABLE remark (
    id TEXT PRIMARY KEY, take_id TEXT NOT NULL REFERENCES take (id), note_id TEXT,
    at_s REAL NOT NULL, who TEXT NOT NULL, words TEXT NOT NULL, utc TEXT NOT NULL);
CREATE INDEX remark_by_take ON remark (take_id, at_s);
"""

_V6 = """
CREATE TABLE work (
    id TEXT PRIMARY KEY, player_id TEXT NOT NULL REFERENCES player (id), jig_id TEXT NOT NULL,
    jig_revision INTEGER NOT NULL, words TEXT NOT NULL, due TEXT NOT NULL,
    good_takes INTEGER NOT NULL, who TEXT NOT NULL, set_utc TEXT NOT NULL,
    closed INTEGER NOT NULL DEFAULT 0);
CREATE INDEX take_by_player ON take (player_id, recorded_utc);
"""

_V7 = """
CREATE TABLE cut (
    take_id TEXT PRIMARY KEY, recording TEXT NOT NULL, start_s REAL NOT NULL,
    stop_s REAL NOT NULL);
CREATE INDEX cut_by_recording ON cut (recording);
CREATE INDEX take_by_sound ON take (sha256);
"""  # stays when the take goes: what was a take once is not offered again

_V8 = """
ALTER TABLE instrument ADD COLUMN string_length_mm REAL;
CREATE TABLE correction (
    take_id TEXT NOT NULL REFERENCES take (id), at_s REAL NOT NULL, i_event INTEGER,
    PRIMARY KEY (take_id, at_s));
CREATE TABLE choice (
    take_id TEXT PRIMARY KEY REFERENCES take (id), against_id TEXT NOT NULL, liked_id TEXT,
    utc TEXT NOT NULL);
CREATE TABLE take_drone (
    take_id TEXT NOT NULL REFERENCES take (id), i INTEGER NOT NULL, f_hz REAL NOT NULL,
    PRIMARY KEY (take_id, i));
CREATE TABLE take_click (
    take_id TEXT PRIMARY KEY REFERENCES take (id), first_s REAL NOT NULL, bpm REAL NOT NULL);
CREATE TABLE string_check (
    instrument_id TEXT NOT NULL REFERENCES instrument (id), day TEXT NOT NULL,
    string TEXT NOT NULL, f_hz REAL NOT NULL, PRIMARY KEY (instrument_id, day, string));
CREATE TABLE contact (
    instrument_id TEXT NOT NULL REFERENCES instrument (id), string TEXT NOT NULL,
    lane INTEGER NOT NULL, day TEXT NOT NULL, PRIMARY KEY (instrument_id, string));
CREATE TABLE best_bow (
    instrument_id TEXT PRIMARY KEY REFERENCES instrument (id), seconds REAL NOT NULL,
    day TEXT NOT NULL);
CREATE TABLE ear_score (
    player_id TEXT PRIMARY KEY REFERENCES player (id), n_right INTEGER NOT NULL,
    n_asked INTEGER NOT NULL);
CREATE TABLE ladder (id TEXT PRIMARY KEY, body TEXT NOT NULL, made_utc TEXT NOT NULL);
CREATE TABLE input_delay (
    device_id TEXT PRIMARY KEY, seconds REAL NOT NULL, uncertainty_s REAL NOT NULL);
CREATE TABLE seen_file (mark TEXT PRIMARY KEY);
"""

_V9 = """
ALTER TABLE segment ADD COLUMN covered_s REAL NOT NULL DEFAULT 0;
ALTER TABLE segment ADD COLUMN swing_cents REAL NOT NULL DEFAULT 0;
ALTER TABLE segment ADD COLUMN swing_gain REAL NOT NULL DEFAULT 0;
ALTER TABLE segment ADD COLUMN doubtful INTEGER NOT NULL DEFAULT 0;
"""

_V10 = """
ALTER TABLE segment ADD COLUMN in_talk INTEGER NOT NULL DEFAULT 0;
"""

_V11 = """
ALTER TABLE segment ADD COLUMN faint INTEGER NOT NULL DEFAULT 0;
ALTER TABLE segment ADD COLUMN outsounded INTEGER NOT NULL DEFAULT 0;
ALTER TABLE remark ADD COLUMN spoken TEXT;
"""

_V12 = """
ALTER TABLE segment ADD COLUMN odds REAL;
"""

_V13 = """
ALTER TABLE segment ADD COLUMN swing_hz REAL NOT NULL DEFAULT 0;
"""

MIGRATIONS: tuple[str, ...] = (
    _V1, _V2, _V3, _V4, _V5, _V6, _V7, _V8, _V9, _V10, _V11, _V12, _V13,
)  # fmt: skip
"""Step ``i`` leads from version ``i`` to ``i + 1``; what SQL cannot say follows in ``moving``."""

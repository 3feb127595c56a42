PRAGMA application_id = 1112692017;
BEGIN TRANSACTION;
CREATE TABLE act (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, by TEXT NOT NULL,
        bench TEXT NOT NULL, deed TEXT NOT NULL
    ) STRICT;
CREATE TABLE act_row (
        act_id TEXT NOT NULL REFERENCES act (id) , row_id TEXT NOT NULL,
        PRIMARY KEY (act_id, row_id)
    ) STRICT;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0014_guard_rows_and_numbers');
CREATE TABLE bench (
        id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE,
        stroke_m REAL NOT NULL CHECK (stroke_m > 0), rate_m_s REAL NOT NULL CHECK (rate_m_s > 0),
        capacity_n REAL NOT NULL CHECK (capacity_n > 0),
        resolution_n REAL NOT NULL CHECK (resolution_n > 0),
        sample_rate_hz REAL NOT NULL CHECK (sample_rate_hz > 0),
        compliance_m_per_n REAL NOT NULL, accuracy_class TEXT NOT NULL,
        calibrated_on TEXT NOT NULL, calibration_due TEXT NOT NULL, keep_away TEXT NOT NULL,
        guard TEXT NOT NULL, guard_energy_j REAL, estop_checked_on TEXT NOT NULL,
        methods TEXT NOT NULL
    , factor REAL NOT NULL DEFAULT 1.0, CHECK (stroke_m BETWEEN 0.0 AND 10000000.0), CHECK (rate_m_s BETWEEN 0.0 AND 1000000000.0), CHECK (capacity_n BETWEEN 0.0 AND 1000000000.0), CHECK (resolution_n BETWEEN 0.0 AND 1000000000.0), CHECK (sample_rate_hz BETWEEN 0.0 AND 1000000000.0), CHECK (compliance_m_per_n BETWEEN -1000000000.0 AND 1000000000.0), CHECK (guard_energy_j BETWEEN -1000000000000.0 AND 1000000000000.0), CHECK (factor BETWEEN 0.0 AND 1000000000000000.0)) STRICT;
INSERT INTO "bench" VALUES('b','yard',1.0,0.008,25000.0,2.0,500.0,0.0,'1','2026-01-01','2027-01-01','','',NULL,'','[]',1.0);
CREATE TABLE campaign (
        id TEXT PRIMARY KEY, title TEXT NOT NULL, station TEXT NOT NULL, question TEXT NOT NULL,
        synthetic INTEGER NOT NULL CHECK (synthetic IN (0, 1)),
        force_unit TEXT NOT NULL, length_unit TEXT NOT NULL, created_at TEXT NOT NULL
    , trade TEXT NOT NULL DEFAULT 'general', offcut_minimum_m REAL NOT NULL DEFAULT 0.5, CHECK (offcut_minimum_m BETWEEN 0.0 AND 10000000.0)) STRICT;
INSERT INTO "campaign" VALUES('c','Sample','yard','?',1,'kN','mm','2026-10-01T08:00:00+00:00','general',0.5);
CREATE TABLE campaign_use (
        use TEXT PRIMARY KEY, position INTEGER NOT NULL
    ) STRICT;
INSERT INTO "campaign_use" VALUES('loop-at-the-end',0);
CREATE TABLE claim (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, kind TEXT NOT NULL,
        knot_id TEXT REFERENCES knot (id), other_knot_id TEXT REFERENCES knot (id),
        lot_id TEXT REFERENCES lot (id), share REAL, wraps INTEGER, load_n REAL,
        supersedes TEXT REFERENCES claim (id), withdrawn INTEGER NOT NULL, CHECK (share BETWEEN 0.0 AND 1000000000000000.0), CHECK (load_n BETWEEN -1000000000.0 AND 1000000000.0)) STRICT;
INSERT INTO "claim" VALUES('cl','2026-10-01T08:00:00+00:00','keeps at least','k1',NULL,'l1',0.6,NULL,NULL,NULL,0);
CREATE TABLE cord_reading (
        id TEXT PRIMARY KEY, knot_id TEXT NOT NULL REFERENCES knot (id),
        lot_id TEXT NOT NULL REFERENCES lot (id), length_m REAL NOT NULL CHECK (length_m > 0),
        made_at TEXT NOT NULL, note TEXT NOT NULL, CHECK (length_m BETWEEN 0.0 AND 10000000.0)) STRICT;
INSERT INTO "cord_reading" VALUES('r','k1','l1',0.3,'2026-10-01T08:00:00+00:00','');
CREATE TABLE criterion (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, measure TEXT NOT NULL,
        threshold REAL NOT NULL, need INTEGER NOT NULL, of INTEGER NOT NULL,
        at_least INTEGER NOT NULL, lot_ids TEXT NOT NULL, knot_ids TEXT NOT NULL,
        comment TEXT NOT NULL, supersedes TEXT REFERENCES criterion (id),
        withdrawn INTEGER NOT NULL, CHECK (need BETWEEN 1 AND of), CHECK (threshold BETWEEN -1000000000000000.0 AND 1000000000000000.0)) STRICT;
CREATE TABLE design_factor (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, value REAL NOT NULL CHECK (value >= 1),
        source TEXT NOT NULL CHECK (source <> ''), withdrawn INTEGER NOT NULL, CHECK (value BETWEEN -1000000000000000.0 AND 1000000000000000.0)) STRICT;
INSERT INTO "design_factor" VALUES('d','2026-10-01T08:00:00+00:00',10.0,'the yard',0);
CREATE TABLE exclusion (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        excluded INTEGER NOT NULL, reason TEXT NOT NULL, by TEXT NOT NULL
    ) STRICT;
INSERT INTO "exclusion" VALUES('ex','p1','2026-10-01T08:00:00+00:00',1,'bent pin','AB');
CREATE TABLE finding (
        id TEXT PRIMARY KEY, entry INTEGER NOT NULL,
        pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        gave TEXT NOT NULL CHECK (gave IN ('broke', 'came_out', 'capsized', 'stopped', 'void')),
        place TEXT, peak_load_n REAL NOT NULL CHECK (peak_load_n >= 0), untied_how TEXT NOT NULL,
        note TEXT NOT NULL, void_reason TEXT NOT NULL, supersedes TEXT REFERENCES finding (id),
        reason TEXT NOT NULL, withdrawn INTEGER NOT NULL CHECK (withdrawn IN (0, 1)), by TEXT NOT NULL DEFAULT '', lengths TEXT NOT NULL DEFAULT '[]', forms TEXT NOT NULL DEFAULT '[]', against_trace TEXT NOT NULL DEFAULT '',
        UNIQUE (pull_id, entry),
        CHECK (gave NOT IN ('broke', 'came_out', 'capsized') OR place IS NOT NULL),
        CHECK (gave <> 'void' OR void_reason <> ''), CHECK (peak_load_n BETWEEN 0.0 AND 1000000000.0)) STRICT;
INSERT INTO "finding" VALUES('f1',1,'p1','2026-10-01T08:00:00+00:00','broke','span',21000.0,'','','',NULL,'',0,'','[]','[]','');
INSERT INTO "finding" VALUES('f2',1,'p2','2026-10-01T08:00:00+00:00','broke','nip_a',14000.0,'','','',NULL,'',0,'','[]','[]','');
INSERT INTO "finding" VALUES('f3',2,'p2','2026-10-01T08:00:00+00:00','broke','nip_b',14100.0,'spike','','','f2','other end',0,'','[]','[]','');
CREATE TABLE fixture (
        id TEXT PRIMARY KEY, kind TEXT NOT NULL CHECK (kind IN ('pin', 'host', 'plate', 'edge')),
        name TEXT NOT NULL, material TEXT NOT NULL, finish TEXT NOT NULL,
        diameter_m REAL NOT NULL CHECK (diameter_m > 0), CHECK (diameter_m BETWEEN 0.0 AND 10000000.0)) STRICT;
INSERT INTO "fixture" VALUES('x','pin','pin','steel','smooth',0.012);
CREATE TABLE guide (
        id TEXT PRIMARY KEY, revision INTEGER NOT NULL UNIQUE, made_at TEXT NOT NULL,
        data_revision TEXT NOT NULL, body TEXT NOT NULL
    ) STRICT;
CREATE TABLE guide_step (
        id TEXT PRIMARY KEY, guide_id TEXT NOT NULL REFERENCES guide (id), made_at TEXT NOT NULL,
        step TEXT NOT NULL CHECK (step IN ('checked', 'released')), by TEXT NOT NULL,
        reasons TEXT NOT NULL, html BLOB, pdf BLOB
    ) STRICT;
CREATE TABLE hank (
        id TEXT PRIMARY KEY, lot_id TEXT NOT NULL REFERENCES lot (id), label TEXT NOT NULL,
        kind TEXT NOT NULL CHECK (kind IN ('hank', 'spool', 'offcut')), UNIQUE (lot_id, label)
    ) STRICT;
INSERT INTO "hank" VALUES('h1','l1','1','hank');
CREATE TABLE hold (
        specimen_id TEXT PRIMARY KEY, token TEXT NOT NULL, bench TEXT NOT NULL,
        by TEXT NOT NULL, until REAL NOT NULL
    ) STRICT;
CREATE TABLE knot (
        id TEXT PRIMARY KEY, structure TEXT NOT NULL, variant TEXT NOT NULL,
        name TEXT NOT NULL, family TEXT NOT NULL, choices TEXT NOT NULL DEFAULT '{}', archived INTEGER NOT NULL DEFAULT 0, UNIQUE (structure, variant)
    ) STRICT;
INSERT INTO "knot" VALUES('k1','bowline','plain','Bowline','end loop','{}',0);
CREATE TABLE knot_inspection (
        finding_id TEXT NOT NULL REFERENCES finding (id),
        "end" TEXT NOT NULL CHECK ("end" IN ('A', 'B')), jam_level TEXT NOT NULL,
        untie_s REAL CHECK (untie_s >= 0), gave_up INTEGER NOT NULL,
        PRIMARY KEY (finding_id, "end"), CHECK (untie_s BETWEEN 0.0 AND 1000000000.0)) STRICT;
INSERT INTO "knot_inspection" VALUES('f3','A','tool',40.0,0);
CREATE TABLE load_check (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, bench TEXT NOT NULL,
        known_n REAL NOT NULL CHECK (known_n > 0), read_n REAL NOT NULL, by TEXT NOT NULL, CHECK (known_n BETWEEN 0.0 AND 1000000000.0), CHECK (read_n BETWEEN -1000000000.0 AND 1000000000.0)) STRICT;
INSERT INTO "load_check" VALUES('lc','2026-10-01T08:00:00+00:00','yard',250.0,251.0,'AB');
CREATE TABLE lot (
        id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE, material TEXT NOT NULL,
        construction TEXT NOT NULL, diameter_m REAL NOT NULL CHECK (diameter_m > 0),
        condition TEXT NOT NULL, rated_strength_n REAL CHECK (rated_strength_n > 0),
        rating_means TEXT NOT NULL, cord_model TEXT NOT NULL
    , designation TEXT NOT NULL DEFAULT '', diameter_means TEXT NOT NULL DEFAULT 'nominal', reference_tension_n REAL, mass_per_length_kg_m REAL, static_elongation REAL, age TEXT NOT NULL DEFAULT '', history TEXT NOT NULL DEFAULT '', conditioning TEXT NOT NULL DEFAULT '', stock_lot_id TEXT REFERENCES lot (id), archived INTEGER NOT NULL DEFAULT 0, soak_s REAL, keep_s REAL, thickness_m REAL, CHECK (diameter_m BETWEEN 0.0 AND 10000000.0), CHECK (rated_strength_n BETWEEN 0.0 AND 1000000000.0), CHECK (reference_tension_n BETWEEN -1000000000.0 AND 1000000000.0), CHECK (mass_per_length_kg_m BETWEEN 0.0 AND 10000000.0), CHECK (static_elongation BETWEEN -1000000000000000.0 AND 1000000000000000.0), CHECK (soak_s BETWEEN 0.0 AND 1000000000.0), CHECK (keep_s BETWEEN 0.0 AND 1000000000.0), CHECK (thickness_m BETWEEN 0.0 AND 10000000.0)) STRICT;
INSERT INTO "lot" VALUES('l1','P8','polyester','braid',0.008,'new',20000.0,'minimum','','','nominal',NULL,NULL,NULL,'','','',NULL,0,NULL,NULL,NULL);
CREATE TABLE own_structure (
        key TEXT PRIMARY KEY, text TEXT NOT NULL, based_on TEXT NOT NULL, made_at TEXT NOT NULL
    ) STRICT;
CREATE TABLE photo (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        name TEXT NOT NULL, width INTEGER NOT NULL, height INTEGER NOT NULL, jpeg BLOB NOT NULL
    ) STRICT;
INSERT INTO "photo" VALUES('ph','p2','2026-10-01T08:00:00+00:00','x',2,2,X'FFD8FFD9');
CREATE TABLE preparation (
        id TEXT PRIMARY KEY, specimen_id TEXT NOT NULL REFERENCES specimen (id),
        made_at TEXT NOT NULL, step TEXT NOT NULL, by TEXT NOT NULL, note TEXT NOT NULL,
        withdrawn INTEGER NOT NULL
    , sheet TEXT, trial TEXT) STRICT;
INSERT INTO "preparation" VALUES('pr','s2','2026-10-01T08:00:00+00:00','tied','AB','',0,NULL,NULL);
CREATE TABLE progress (
        specimen_id TEXT PRIMARY KEY, lot_id TEXT NOT NULL, role TEXT NOT NULL,
        method TEXT NOT NULL, place INTEGER NOT NULL, code TEXT NOT NULL, stage TEXT NOT NULL,
        pull_id TEXT, started_at TEXT, ended_at TEXT, simulated INTEGER NOT NULL,
        revision INTEGER NOT NULL
    ) STRICT;
INSERT INTO "progress" VALUES('s1','l1','baseline','ramp to failure',0,'B-1','inspected','p1','2026-10-01T08:00:00+00:00','2026-10-01T08:00:00+00:00',0,1);
INSERT INTO "progress" VALUES('s2','l1','knot','ramp to failure',1,'K-1','inspected','p2','2026-10-01T08:00:00+00:00','2026-10-01T08:00:00+00:00',0,1);
INSERT INTO "progress" VALUES('s3','l1','knot','ramp to failure',2,'K-2','planned',NULL,NULL,NULL,0,1);
CREATE TABLE pull (
        id TEXT PRIMARY KEY, specimen_id TEXT NOT NULL REFERENCES specimen (id),
        started_at TEXT NOT NULL, instrument TEXT NOT NULL,
        sample_rate_hz REAL NOT NULL CHECK (sample_rate_hz > 0), rate_m_s REAL NOT NULL,
        capacity_n REAL NOT NULL, resolution_n REAL NOT NULL, technician TEXT NOT NULL,
        ended_at TEXT, "end" TEXT, remains TEXT, samples_lost INTEGER NOT NULL, CHECK (sample_rate_hz BETWEEN 0.0 AND 1000000000.0), CHECK (rate_m_s BETWEEN 0.0 AND 1000000000.0), CHECK (capacity_n BETWEEN 0.0 AND 1000000000.0), CHECK (resolution_n BETWEEN 0.0 AND 1000000000.0)) STRICT;
INSERT INTO "pull" VALUES('p1','s1','2026-10-01T08:00:00+00:00','bench',100.0,0.008,25000.0,2.0,'AB','2026-10-01T08:00:00+00:00','gave',NULL,0);
INSERT INTO "pull" VALUES('p2','s2','2026-10-01T08:00:00+00:00','bench',100.0,0.008,25000.0,2.0,'AB','2026-10-01T08:00:00+00:00','gave',NULL,0);
CREATE TABLE rating_limits (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, version INTEGER NOT NULL UNIQUE,
        body TEXT NOT NULL, comment TEXT NOT NULL, by TEXT NOT NULL
    ) STRICT;
CREATE TABLE reading (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        takes TEXT NOT NULL, number INTEGER NOT NULL, load_n REAL NOT NULL, value REAL,
        "end" TEXT, level TEXT, note TEXT NOT NULL, CHECK (load_n BETWEEN -1000000000.0 AND 1000000000.0), CHECK (value BETWEEN -1000000000000000.0 AND 1000000000000000.0)) STRICT;
INSERT INTO "reading" VALUES('rd','p2','2026-10-01T08:00:00+00:00','untying',1,5000.0,12.0,'A','hand','');
CREATE TABLE revision (name TEXT PRIMARY KEY, number INTEGER NOT NULL) STRICT;
INSERT INTO "revision" VALUES('',1);
CREATE TABLE room_day (
        day TEXT PRIMARY KEY, temperature_c REAL NOT NULL, humidity REAL NOT NULL, CHECK (temperature_c BETWEEN -1000000000000000.0 AND 1000000000000000.0), CHECK (humidity BETWEEN 0.0 AND 1000000000000000.0)) STRICT;
INSERT INTO "room_day" VALUES('2026-10-01',20.0,0.5);
CREATE TABLE specimen (
        id TEXT PRIMARY KEY, code TEXT NOT NULL UNIQUE,
        role TEXT NOT NULL CHECK (role IN ('baseline', 'knot')),
        lot_id TEXT NOT NULL REFERENCES lot (id), layout TEXT NOT NULL,
        queue_position INTEGER NOT NULL, span_m REAL NOT NULL CHECK (span_m > 0),
        knot_a_id TEXT REFERENCES knot (id), knot_b_id TEXT REFERENCES knot (id),
        pin_diameter_m REAL NOT NULL, set_load_n REAL NOT NULL, seed INTEGER NOT NULL,
        note TEXT NOT NULL
    , method TEXT NOT NULL DEFAULT 'ramp to failure', method_values TEXT NOT NULL DEFAULT '{}', direction TEXT NOT NULL DEFAULT '', dressing TEXT NOT NULL DEFAULT 'dressed', fixture_id TEXT REFERENCES fixture (id), lot_b_id TEXT REFERENCES lot (id), pair TEXT NOT NULL DEFAULT '', replaces_id TEXT REFERENCES specimen (id), state TEXT NOT NULL DEFAULT '{}', CHECK (span_m BETWEEN 0.0 AND 10000000.0), CHECK (pin_diameter_m BETWEEN 0.0 AND 10000000.0), CHECK (set_load_n BETWEEN 0.0 AND 1000000000.0)) STRICT;
INSERT INTO "specimen" VALUES('s1','B-1','baseline','l1','baseline',0,0.4,NULL,NULL,0.0,0.0,1,'','ramp to failure','{}','','dressed',NULL,NULL,'',NULL,'{}');
INSERT INTO "specimen" VALUES('s2','K-1','knot','l1','loop_pair',1,0.4,'k1','k1',0.012,100.0,2,'','ramp to failure','{}','','dressed',NULL,NULL,'',NULL,'{}');
INSERT INTO "specimen" VALUES('s3','K-2','knot','l1','loop_pair',2,0.4,'k1','k1',0.012,100.0,3,'waits','ramp to failure','{}','','dressed',NULL,NULL,'',NULL,'{}');
CREATE TABLE stock_entry (
        id TEXT PRIMARY KEY, hank_id TEXT NOT NULL REFERENCES hank (id), made_at TEXT NOT NULL,
        move TEXT NOT NULL, change_m REAL NOT NULL,
        specimen_id TEXT REFERENCES specimen (id), note TEXT NOT NULL, CHECK (change_m BETWEEN -10000000.0 AND 10000000.0)) STRICT;
INSERT INTO "stock_entry" VALUES('e1','h1','2026-10-01T08:00:00+00:00','received',30.0,NULL,'');
CREATE TABLE tail (
        specimen_id TEXT NOT NULL REFERENCES specimen (id), key TEXT NOT NULL,
        length_m REAL NOT NULL CHECK (length_m >= 0), PRIMARY KEY (specimen_id, key), CHECK (length_m BETWEEN 0.0 AND 10000000.0)) STRICT;
INSERT INTO "tail" VALUES('s2','tail_a',0.1);
CREATE TABLE tail_draw (
        finding_id TEXT NOT NULL REFERENCES finding (id), key TEXT NOT NULL,
        draw_m REAL NOT NULL CHECK (draw_m >= 0), u_m REAL, how TEXT NOT NULL DEFAULT 'rule', PRIMARY KEY (finding_id, key), CHECK (draw_m BETWEEN 0.0 AND 10000000.0), CHECK (u_m BETWEEN 0.0 AND 10000000.0)) STRICT;
INSERT INTO "tail_draw" VALUES('f3','tail_a',0.012,NULL,'rule');
CREATE TABLE taken_back (
        n INTEGER PRIMARY KEY, made_at TEXT NOT NULL, table_name TEXT NOT NULL,
        row_key TEXT NOT NULL, about TEXT NOT NULL, body TEXT NOT NULL, again_at TEXT
    ) STRICT;
INSERT INTO "taken_back" VALUES(1,'2026-10-01T08:00:00+00:00','claim','old','','{}',NULL);
CREATE TABLE tally (
        lot_id TEXT NOT NULL, role TEXT NOT NULL, method TEXT NOT NULL, stage TEXT NOT NULL,
        count INTEGER NOT NULL, revision INTEGER NOT NULL,
        PRIMARY KEY (lot_id, role, method, stage)
    ) STRICT;
INSERT INTO "tally" VALUES('l1','baseline','ramp to failure','inspected',1,1);
INSERT INTO "tally" VALUES('l1','knot','ramp to failure','inspected',1,1);
INSERT INTO "tally" VALUES('l1','knot','ramp to failure','planned',1,1);
CREATE TABLE trace_analysis (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id),
        made_at TEXT NOT NULL, method TEXT NOT NULL, result TEXT NOT NULL
    ) STRICT;
CREATE TABLE trace_chunk (
        pull_id TEXT NOT NULL REFERENCES pull (id), first_seq INTEGER NOT NULL,
        count INTEGER NOT NULL CHECK (count > 0), data BLOB NOT NULL, extra BLOB,
        PRIMARY KEY (pull_id, first_seq)
    ) STRICT;
INSERT INTO "trace_chunk" VALUES('p2',0,4,X'789C635830A585A1EDFC5606C6F632060686FF0C2F5EBC6060666666800200B5590881',NULL);
CREATE TABLE use_profile (
        id TEXT PRIMARY KEY, key TEXT NOT NULL, made_at TEXT NOT NULL, body TEXT NOT NULL,
        withdrawn INTEGER NOT NULL
    ) STRICT;
CREATE INDEX pull_by_specimen ON pull (specimen_id);
CREATE INDEX finding_by_pull ON finding (pull_id);
CREATE INDEX analysis_by_pull ON trace_analysis (pull_id);
CREATE TRIGGER finding_is_append_only BEFORE UPDATE ON finding
        BEGIN SELECT RAISE (ABORT, 'findings are append-only'); END;
CREATE INDEX stock_entry_by_hank ON stock_entry (hank_id);
CREATE TRIGGER stock_entry_is_append_only BEFORE UPDATE ON stock_entry
        BEGIN SELECT RAISE (ABORT, 'stock_entry is append-only'); END;
CREATE TRIGGER criterion_is_append_only BEFORE UPDATE ON criterion
        BEGIN SELECT RAISE (ABORT, 'criterion is append-only'); END;
CREATE TRIGGER claim_is_append_only BEFORE UPDATE ON claim
        BEGIN SELECT RAISE (ABORT, 'claim is append-only'); END;
CREATE TRIGGER design_factor_is_append_only BEFORE UPDATE ON design_factor
        BEGIN SELECT RAISE (ABORT, 'design_factor is append-only'); END;
CREATE INDEX preparation_by_specimen ON preparation (specimen_id);
CREATE TRIGGER preparation_is_append_only BEFORE UPDATE ON preparation
    BEGIN SELECT RAISE (ABORT, 'preparation is append-only'); END;
CREATE TRIGGER load_check_is_append_only BEFORE UPDATE ON load_check
    BEGIN SELECT RAISE (ABORT, 'load_check is append-only'); END;
CREATE INDEX reading_by_pull ON reading (pull_id);
CREATE TRIGGER reading_is_append_only BEFORE UPDATE ON reading
    BEGIN SELECT RAISE (ABORT, 'reading is append-only'); END;
CREATE INDEX photo_by_pull ON photo (pull_id);
CREATE TRIGGER photo_stays_as_taken BEFORE UPDATE ON photo
    BEGIN SELECT RAISE (ABORT, 'a photo is not changed'); END;
CREATE INDEX exclusion_by_pull ON exclusion (pull_id);
CREATE TRIGGER exclusion_is_append_only BEFORE UPDATE ON exclusion
    BEGIN SELECT RAISE (ABORT, 'exclusion is append-only'); END;
CREATE TRIGGER rating_limits_is_append_only BEFORE UPDATE ON rating_limits
        BEGIN SELECT RAISE (ABORT, 'rating_limits is append-only'); END;
CREATE TRIGGER use_profile_is_append_only BEFORE UPDATE ON use_profile
        BEGIN SELECT RAISE (ABORT, 'use_profile is append-only'); END;
CREATE TRIGGER guide_is_append_only BEFORE UPDATE ON guide
        BEGIN SELECT RAISE (ABORT, 'guide is append-only'); END;
CREATE TRIGGER guide_step_is_append_only BEFORE UPDATE ON guide_step
        BEGIN SELECT RAISE (ABORT, 'guide_step is append-only'); END;
CREATE INDEX taken_back_about ON taken_back (about);
CREATE INDEX progress_queue ON progress (stage, place, code);
CREATE INDEX progress_order ON progress (place, code);
CREATE INDEX progress_tally ON progress (lot_id, role, method, stage);
CREATE INDEX progress_simulated ON progress (simulated);
CREATE INDEX progress_revision ON progress (revision);
CREATE INDEX progress_pull ON progress (pull_id);
CREATE INDEX progress_started ON progress (started_at);
CREATE INDEX tally_revision ON tally (revision);
CREATE INDEX specimen_by_replaced ON specimen (replaces_id);
CREATE INDEX specimen_by_lot ON specimen (lot_id, knot_a_id, knot_b_id);
CREATE INDEX specimen_by_second_lot ON specimen (lot_b_id);
CREATE INDEX specimen_by_knot ON specimen (knot_a_id);
CREATE INDEX specimen_by_second_knot ON specimen (knot_b_id);
CREATE INDEX stock_entry_sums ON stock_entry (hank_id, change_m);
CREATE INDEX stock_entry_by_specimen ON stock_entry (specimen_id);
CREATE INDEX pull_unended ON pull (started_at) WHERE ended_at IS NULL;
CREATE INDEX pull_by_technician ON pull (technician);
CREATE INDEX pull_by_instrument ON pull (instrument);
CREATE INDEX finding_by_time ON finding (made_at);
CREATE INDEX finding_by_superseded ON finding (supersedes);
CREATE INDEX preparation_with_trial ON preparation (specimen_id) WHERE trial IS NOT NULL;
CREATE INDEX taken_back_key ON taken_back (row_key);
CREATE INDEX act_row_about ON act_row (row_id);
COMMIT;

-- What is append-only cannot be deleted either, but by taking a step back, which is kept in
-- taken_back; samples of a pull that was inspected stay.
CREATE FUNCTION bruiser_keeps_rows() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF current_setting('bruiser.taking_back', true) IS NOT DISTINCT FROM 'on'
        AND current_user = (SELECT tableowner FROM pg_tables
            WHERE schemaname = TG_TABLE_SCHEMA AND tablename = TG_TABLE_NAME) THEN
        RETURN OLD;
    END IF;
    RAISE EXCEPTION '% is append-only', TG_TABLE_NAME
        USING ERRCODE = 'integrity_constraint_violation';
END $$;

DO $$
DECLARE
    name text;
BEGIN
    FOREACH name IN ARRAY ARRAY['preparation', 'finding', 'tail_draw', 'knot_inspection',
        'exclusion', 'criterion', 'claim', 'design_factor', 'rating_limits', 'use_profile',
        'trace_analysis', 'reading', 'act', 'act_row', 'guide', 'guide_step', 'load_check',
        'taken_back']
    LOOP
        EXECUTE format('CREATE TRIGGER %I BEFORE DELETE ON %I FOR EACH ROW '
            'EXECUTE FUNCTION bruiser_keeps_rows()', name || '_keeps_rows', name);
    END LOOP;
    FOREACH name IN ARRAY ARRAY['tail_draw', 'knot_inspection', 'trace_analysis', 'act', 'act_row']
    LOOP
        EXECUTE format('CREATE TRIGGER %I BEFORE UPDATE ON %I FOR EACH ROW '
            'EXECUTE FUNCTION bruiser_append_only()', name || '_is_append_only', name);
    END LOOP;
END $$;

CREATE FUNCTION bruiser_keeps_samples() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM finding WHERE pull_id = OLD.pull_id)
        AND current_setting('bruiser.taking_back', true) IS DISTINCT FROM 'on' THEN
        RAISE EXCEPTION 'samples of a pull that was inspected stay'
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    IF TG_OP = 'DELETE' THEN
        RETURN OLD;
    END IF;
    RETURN NEW;
END $$;
CREATE TRIGGER trace_chunk_keeps_samples BEFORE UPDATE OR DELETE ON trace_chunk
    FOR EACH ROW EXECUTE FUNCTION bruiser_keeps_samples();

-- Takes one row back by the right of the tables' owner, and keeps it.
CREATE FUNCTION bruiser_take_back(of_table text, place bigint, now_said text) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    body jsonb;
    said text;
BEGIN
    IF of_table NOT IN ('preparation', 'finding', 'tail_draw', 'knot_inspection', 'exclusion',
        'criterion', 'claim', 'design_factor', 'rating_limits', 'use_profile', 'trace_analysis',
        'stock_entry', 'reading') THEN
        RAISE EXCEPTION '% is not append-only', of_table;
    END IF;
    EXECUTE format('SELECT to_jsonb(t) - ''rowid'' FROM %I t WHERE rowid = $1', of_table)
        INTO body USING place;
    IF body IS NULL THEN
        RETURN false;
    END IF;
    said := coalesce(body ->> 'id', (body ->> 'finding_id') || ' '
        || coalesce(body ->> 'key', body ->> 'end'));
    INSERT INTO taken_back (made_at, table_name, row_key, about, body)
    VALUES (now_said, of_table, said, coalesce(body ->> 'pull_id', body ->> 'specimen_id',
        body ->> 'finding_id', body ->> 'hank_id', ''), body::text);
    PERFORM set_config('bruiser.taking_back', 'on', true);
    EXECUTE format('DELETE FROM %I WHERE rowid = $1', of_table) USING place;
    PERFORM set_config('bruiser.taking_back', 'off', true);
    RETURN true;
END $$;

-- A hank that nothing was cut from may be removed with its first line; other lines stay.
CREATE FUNCTION bruiser_keeps_stock() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF current_setting('bruiser.taking_back', true) IS DISTINCT FROM 'on' AND EXISTS (
        SELECT 1 FROM stock_entry WHERE hank_id = OLD.hank_id AND specimen_id IS NOT NULL) THEN
        RAISE EXCEPTION 'what was cut from a hank stays'
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    RETURN OLD;
END $$;
CREATE TRIGGER stock_entry_keeps_cuts BEFORE DELETE ON stock_entry
    FOR EACH ROW EXECUTE FUNCTION bruiser_keeps_stock();

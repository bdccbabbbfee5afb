-- +goose Up
-- The language that somebody reads here, as a BCP 47 tag; '' for English.
ALTER TABLE person ADD COLUMN language text NOT NULL DEFAULT '';

-- Why a sheet did not go out is a code with its arguments; sentences from before stay as they are.
DROP INDEX sheet_unsent;
ALTER TABLE sheet ALTER COLUMN send_fault DROP NOT NULL, ALTER COLUMN send_fault DROP DEFAULT;
ALTER TABLE sheet ALTER COLUMN send_fault TYPE jsonb USING CASE WHEN send_fault = '' THEN NULL
    ELSE jsonb_build_object('code', 'verbatim', 'args', jsonb_build_array(jsonb_build_object('kind', 'text', 'value', send_fault))) END;
CREATE INDEX sheet_unsent ON sheet (owner_id) WHERE send_fault IS NOT NULL;

-- +goose Down
DROP INDEX sheet_unsent;
ALTER TABLE sheet ALTER COLUMN send_fault TYPE text USING coalesce(send_fault->'args'->0->>'value', '');
ALTER TABLE sheet ALTER COLUMN send_fault SET DEFAULT '', ALTER COLUMN send_fault SET NOT NULL;
CREATE INDEX sheet_unsent ON sheet (owner_id) WHERE send_fault <> '';
ALTER TABLE person DROP COLUMN language;

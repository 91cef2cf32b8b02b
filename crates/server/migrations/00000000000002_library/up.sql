-- The library whole: all kinds of data sheets, who entered a revision from what document, sheets taken out of use.

ALTER TABLE sheets DROP CONSTRAINT sheets_kind_check;
ALTER TABLE sheets ADD CONSTRAINT sheets_kind_check CHECK (kind IN ('module', 'inverter', 'optimizer', 'micro'));
ALTER TABLE sheets ADD COLUMN entered_by text NOT NULL DEFAULT '';
ALTER TABLE sheets ADD COLUMN from_document text NOT NULL DEFAULT '' CHECK (length(from_document) <= 200);

-- The newest row of a sheet says whether it is offered: retiring and taking back are both added.
CREATE TABLE sheet_states (
    seq bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind text NOT NULL,
    sheet text NOT NULL,
    retired boolean NOT NULL,
    by text NOT NULL,
    at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sheet_states_sheet ON sheet_states (kind, sheet, seq DESC);
CREATE TRIGGER sheet_states_only_added BEFORE UPDATE OR DELETE ON sheet_states FOR EACH ROW EXECUTE FUNCTION refuse_change();

-- Which jobs hold a sheet is asked of their newest revision.
CREATE INDEX job_revisions_library ON job_revisions USING gin ((document -> 'library') jsonb_path_ops);

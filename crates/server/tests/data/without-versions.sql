-- A database of the version whose documents carried no format version: the demo data, one save and one reading.
CREATE FUNCTION public.refuse_change() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
BEGIN
    RAISE EXCEPTION 'rows of % are only ever added', TG_TABLE_NAME;
END
$$;
CREATE TABLE public.__diesel_schema_migrations (
    version character varying(50) NOT NULL,
    run_on timestamp without time zone DEFAULT CURRENT_TIMESTAMP NOT NULL
);
CREATE TABLE public.accounts (
    id uuid NOT NULL,
    name text NOT NULL,
    sign_in text NOT NULL,
    role text NOT NULL,
    password_hash text NOT NULL,
    disabled boolean DEFAULT false NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT accounts_name_check CHECK (((length(name) >= 1) AND (length(name) <= 120))),
    CONSTRAINT accounts_role_check CHECK ((role = ANY (ARRAY['owner'::text, 'designer'::text, 'field'::text, 'viewer'::text]))),
    CONSTRAINT accounts_sign_in_check CHECK (((sign_in = lower(sign_in)) AND ((length(sign_in) >= 1) AND (length(sign_in) <= 120))))
);
CREATE TABLE public.job_revisions (
    job_id uuid NOT NULL,
    revision integer NOT NULL,
    document jsonb NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL,
    saved_by text NOT NULL,
    CONSTRAINT job_revisions_revision_check CHECK ((revision >= 1))
);
CREATE TABLE public.jobs (
    id uuid NOT NULL,
    name text NOT NULL,
    school text NOT NULL,
    revision integer NOT NULL,
    verdict text NOT NULL,
    counts jsonb NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    updated_at timestamp with time zone DEFAULT now() NOT NULL,
    updated_by text NOT NULL,
    CONSTRAINT jobs_revision_check CHECK ((revision >= 1)),
    CONSTRAINT jobs_school_check CHECK ((school = ANY (ARRAY['na'::text, 'iec'::text])))
);
CREATE TABLE public.readings (
    id uuid NOT NULL,
    seq bigint NOT NULL,
    job_id uuid NOT NULL,
    taken_at timestamp with time zone NOT NULL,
    taken_by text NOT NULL,
    entered_by uuid,
    reading jsonb NOT NULL
);
ALTER TABLE public.readings ALTER COLUMN seq ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.readings_seq_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.sessions (
    token_hash bytea NOT NULL,
    account_id uuid NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    expires_at timestamp with time zone NOT NULL
);
CREATE TABLE public.sheet_states (
    seq bigint NOT NULL,
    kind text NOT NULL,
    sheet text NOT NULL,
    retired boolean NOT NULL,
    by text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL
);
ALTER TABLE public.sheet_states ALTER COLUMN seq ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.sheet_states_seq_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.sheets (
    kind text NOT NULL,
    sheet text NOT NULL,
    revision integer NOT NULL,
    document jsonb NOT NULL,
    entered_at timestamp with time zone DEFAULT now() NOT NULL,
    entered_by text DEFAULT ''::text NOT NULL,
    from_document text DEFAULT ''::text NOT NULL,
    CONSTRAINT sheets_from_document_check CHECK ((length(from_document) <= 200)),
    CONSTRAINT sheets_kind_check CHECK ((kind = ANY (ARRAY['module'::text, 'inverter'::text, 'optimizer'::text, 'micro'::text]))),
    CONSTRAINT sheets_revision_check CHECK ((revision >= 1))
);
CREATE TABLE public.sign_in_failures (
    id bigint NOT NULL,
    sign_in text NOT NULL,
    address text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL
);
ALTER TABLE public.sign_in_failures ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.sign_in_failures_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
INSERT INTO public.__diesel_schema_migrations VALUES ('00000000000001', '2026-11-25 19:30:50.738849');
INSERT INTO public.__diesel_schema_migrations VALUES ('00000000000002', '2026-11-25 19:30:50.767089');
INSERT INTO public.accounts VALUES ('ee5bb163-1500-402c-b205-617105735b6d', 'Mira Voss', 'mira', 'owner', '$argon2id$v=19$m=19456,t=2,p=1$wp7zvmMXvJkY5hja/BrUcA$ZOC/E2TyuqgnqBqgUlnXVhuKi40/Nx9DVzthOUxgg/I', false, '2026-11-25 19:30:50.804247+00');
INSERT INTO public.accounts VALUES ('f5fe64d9-d21d-479d-8ed6-383fc1835064', 'Tomas Brandt', 'tomas', 'designer', '$argon2id$v=19$m=19456,t=2,p=1$9p11z71/wZ+XA3IskMrWQA$N9YDIF0wcoPhgd1uxPTN7Gpi+x+SMvnmF9PTR11GrvQ', false, '2026-11-25 19:30:50.804247+00');
INSERT INTO public.accounts VALUES ('3acdfb21-2b0d-4f7a-bf79-816bf11a8373', 'Ines Rowe', 'ines', 'field', '$argon2id$v=19$m=19456,t=2,p=1$DBF0txQaLadWzkPatiAydw$gvFDVuaeRSNr6vZZAM7CG5mjsg4T0z1zezE27gvMV0Y', false, '2026-11-25 19:30:50.804247+00');
INSERT INTO public.accounts VALUES ('a9ff5b6b-72d7-45a5-a1b1-089d3dd2a715', 'Inspector''s seat', 'inspector', 'viewer', '$argon2id$v=19$m=19456,t=2,p=1$6XhoA9YxrsoPZtEHLWf44g$eSIMqDb3oWieF00JV99W+JgtuBR8iTtnnCf4QHzKeiA', false, '2026-11-25 19:30:50.804247+00');
INSERT INTO public.job_revisions VALUES ('b8f9b148-197c-45f0-8b97-8c6745e4bc25', 1, '{"job": {"name": "Quarry Cottage", "runs": [{"id": "DC1", "kind": "pv_string", "name": "Roof to inverter", "wire": {"mm2": 6.0, "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "neutral": false, "strings": ["A"], "segments": [{"place": "under_modules", "method": "free_air", "length_m": 4.0}, {"place": "cavity", "method": "raceway", "raceway": {"kind": "medium", "size": "20"}, "length_m": 8.5}, {"place": "garage", "method": "raceway", "raceway": {"kind": "medium", "size": "20"}, "length_m": 5.5}]}, {"id": "AC1", "kind": "inverter_out", "name": "Inverter to board", "wire": {"mm2": 6.0, "cable": "pvc70", "material": "cu", "insulation": "THWN-2"}, "ocpd_a": 32.0, "neutral": false, "inverter": "INV1", "segments": [{"place": "garage", "method": "raceway", "raceway": {"kind": "medium", "size": "25"}, "length_m": 6.0}]}], "site": {"faces": [{"id": "s", "name": "south", "tilt_deg": 38.0, "azimuth_deg": 178.0}], "t_max_c": 30.0, "t_min_c": -8.0, "building": "building", "mounting": "flush", "cold_method": "coefficient", "latitude_deg": 54.31, "longitude_deg": -2.13, "cell_rise_hot_c": null}, "notes": "Battery backup with its own earth electrode comes with a later stage. Cavity wall route.", "places": [{"ac_m": 19.0, "dc_m": 9.0, "name": "outside wall by the array", "place": "outside_wall_sun"}, {"ac_m": 16.0, "dc_m": 8.0, "name": "loft", "place": "attic"}, {"ac_m": 6.0, "dc_m": 18.0, "name": "garage", "place": "garage"}], "school": "iec", "address": "Quarry Cottage, Upper Fold", "strings": [{"n": 14, "face": "s", "mppt": 1, "letter": "A", "module": {"sheet": "brightmoor-bm-440", "revision": 1}, "inverter": "INV1"}], "settings": {}, "inverters": [{"id": "INV1", "sheet": {"sheet": "marrow-h6", "revision": 1}}]}, "library": {"micros": [], "modules": [{"demo": true, "maker": "Brightmoor", "model": "BM-440", "sheet": "brightmoor-bm-440", "lead_m": 1.2, "ratings": {"imp_a": 13.26, "isc_a": 14.05, "vmp_v": 33.2, "voc_v": 39.7, "nmot_c": 43.0, "pmax_w": 440.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.25, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.29, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 1, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.4}], "inverters": [{"ac_a": 26.1, "ac_v": 230.0, "ac_w": 6000.0, "demo": true, "maker": "Marrow", "model": "H6", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 100.0, "connectors_n": 1.0, "mppt_w_max_w": 7000.0, "mppt_imp_max_a": 18.0, "mppt_isc_max_a": 22.0, "full_power_max_v": 500.0, "full_power_min_v": 250.0}, {"mppt_max_v": 560.0, "mppt_min_v": 100.0, "connectors_n": 1.0, "mppt_w_max_w": 7000.0, "mppt_imp_max_a": 18.0, "mppt_isc_max_a": 22.0, "full_power_max_v": 500.0, "full_power_min_v": 250.0}], "sheet": "marrow-h6", "start_v": 120.0, "revision": 1, "switch_on": "ac_first", "vdc_max_v": 650.0, "weight_kg": 27.0, "dc_w_max_w": 9000.0, "max_ocpd_a": 40.0, "reconnect_s": 60.0, "three_phase": false}], "optimizers": []}}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.job_revisions VALUES ('4aceaa7d-58f2-4d1a-8581-202f1154019e', 1, '{"job": {"name": "Kestrel Lane workshop", "runs": [{"id": "DC1", "kind": "pv_string", "name": "Roof box to inverter", "wire": {"awg": "8", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "neutral": false, "strings": ["A", "B", "C"], "segments": [{"place": "attic", "method": "raceway", "raceway": {"kind": "emt", "size": "3/4"}, "length_m": 6.1}, {"place": "cavity", "method": "raceway", "raceway": {"kind": "emt", "size": "3/4"}, "length_m": 9.4}, {"place": "garage", "method": "raceway", "raceway": {"kind": "emt", "size": "1"}, "length_m": 4.0}]}, {"id": "AC1", "kind": "inverter_out", "name": "Inverter to panel", "wire": {"awg": "8", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "ocpd_a": 45.0, "neutral": true, "inverter": "INV1", "segments": [{"place": "garage", "method": "raceway", "raceway": {"kind": "emt", "size": "1"}, "length_m": 7.2}]}], "site": {"faces": [{"id": "se", "name": "south-east", "tilt_deg": 30.0, "azimuth_deg": 135.0}, {"id": "sw", "name": "south-west", "tilt_deg": 30.0, "azimuth_deg": 225.0}], "t_max_c": 33.0, "t_min_c": -24.0, "building": "dwelling_1_2", "mounting": "flush", "cold_method": "coefficient", "cell_rise_hot_c": null}, "notes": "Workshop roof, two faces. Inverter in the garage, shaded wall by the panel.", "panel": {"bus_a": 200.0, "main_a": 150.0, "load_calc_a": 118.0, "pv_at_far_end": true, "load_breakers_a": [40.0, 30.0, 30.0, 20.0, 20.0, 20.0, 15.0, 15.0]}, "school": "na", "address": "14 Kestrel Lane", "strings": [{"n": 12, "face": "se", "mppt": 1, "letter": "A", "module": {"sheet": "brightmoor-bm-430", "revision": 2}, "inverter": "INV1"}, {"n": 7, "face": "sw", "mppt": 2, "letter": "B", "module": {"sheet": "brightmoor-bm-430", "revision": 2}, "inverter": "INV1"}, {"n": 7, "face": "sw", "mppt": 2, "letter": "C", "module": {"sheet": "brightmoor-bm-430", "revision": 2}, "inverter": "INV1"}], "settings": {}, "inverters": [{"id": "INV1", "sheet": {"sheet": "stellan-s8-2", "revision": 4}}]}, "library": {"micros": [], "modules": [{"demo": true, "maker": "Brightmoor", "model": "BM-430", "sheet": "brightmoor-bm-430", "lead_m": 1.2, "ratings": {"imp_a": 13.05, "isc_a": 13.85, "vmp_v": 33.0, "voc_v": 39.4, "nmot_c": 43.0, "pmax_w": 430.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.26, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.3, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 2, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.3}], "inverters": [{"ac_a": 33.3, "ac_v": 240.0, "ac_w": 8000.0, "demo": true, "maker": "Stellan", "model": "S8-2", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6400.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}, {"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6400.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}], "sheet": "stellan-s8-2", "start_v": 110.0, "revision": 4, "switch_on": "dc_first", "vdc_max_v": 600.0, "weight_kg": 19.5, "dc_w_max_w": 12000.0, "max_ocpd_a": 50.0, "reconnect_s": 300.0, "three_phase": false}], "optimizers": []}}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.job_revisions VALUES ('d5a07d8e-554b-4296-b828-055a32c74742', 1, '{"job": {"name": "Pinyon Street duplex", "runs": [], "site": {"faces": [{"id": "e", "name": "east roof", "tilt_deg": 22.0, "azimuth_deg": 95.0}, {"id": "w", "name": "west roof", "tilt_deg": 22.0, "azimuth_deg": 275.0}], "t_max_c": 36.0, "t_min_c": -18.0, "building": "dwelling_1_2", "mounting": "flush", "cold_method": "coefficient", "cell_rise_hot_c": null}, "notes": "Microinverters on two roofs with a gap to bridge. Roof disconnect required. The 120 % rule fails with the 200 A main: a smaller main or a tap is the way.", "panel": {"bus_a": 200.0, "main_a": 200.0, "load_calc_a": 142.0, "pv_at_far_end": true, "load_breakers_a": [20.0, 20.0, 15.0, 15.0, 30.0, 40.0, 50.0]}, "school": "na", "address": "Pinyon Street 41 and 43", "strings": [], "branches": [{"face": "e", "wire": {"awg": "10", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "micro": {"sheet": "wren-w-330", "revision": 1}, "arms_n": [11], "letter": "A", "module": {"sheet": "oxbow-ox-395", "revision": 1}, "breaker_a": 20.0, "home_run_m": 21.0}, {"face": "e", "wire": {"awg": "10", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "micro": {"sheet": "wren-w-330", "revision": 1}, "arms_n": [5, 5], "letter": "B", "module": {"sheet": "oxbow-ox-395", "revision": 1}, "breaker_a": 20.0, "home_run_m": 21.0}, {"face": "w", "wire": {"awg": "10", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "micro": {"sheet": "wren-w-330", "revision": 1}, "arms_n": [5, 5], "letter": "C", "module": {"sheet": "oxbow-ox-395", "revision": 1}, "breaker_a": 20.0, "home_run_m": 26.0}], "settings": {}, "inverters": []}, "library": {"micros": [{"ac_a": 1.38, "ac_v": 240.0, "ac_w": 330.0, "demo": true, "maker": "Wren", "model": "W-330", "sheet": "wren-w-330", "trunk": {"pitch_m": 1.3, "section_ohm": 0.0142}, "revision": 1, "weight_kg": 1.1, "in_v_max_v": 60.0, "mppt_max_v": 50.0, "mppt_min_v": 22.0, "reconnect_s": 300.0, "branch_max_n": 11.0, "in_isc_max_a": 18.0}], "modules": [{"demo": true, "maker": "Oxbow", "model": "OX-395", "sheet": "oxbow-ox-395", "lead_m": 0.6, "ratings": {"imp_a": 12.71, "isc_a": 13.55, "vmp_v": 31.1, "voc_v": 37.1, "nmot_c": 45.0, "pmax_w": 395.0, "a_isc_pct_c": 0.05, "b_voc_pct_c": -0.27, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.35, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 20.0, "cells_series_n": 54.0}, "depth_mm": 35.0, "revision": 1, "width_mm": 1690.0, "length_mm": 1046.0, "weight_kg": 20.2}], "inverters": [], "optimizers": []}}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.job_revisions VALUES ('1ea3fb79-7cc5-4b1a-8572-5da08822cda8', 1, '{"job": {"name": "Tern Bay school hall", "runs": [{"id": "DC1", "kind": "pv_string", "name": "Roof to plant room", "wire": {"mm2": 6.0, "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "neutral": false, "strings": ["A", "B", "C"], "segments": [{"place": "under_modules", "method": "free_air", "length_m": 9.0}, {"place": "attic", "method": "raceway", "raceway": {"kind": "heavy", "size": "40"}, "length_m": 12.0}, {"place": "inside", "method": "raceway", "raceway": {"kind": "heavy", "size": "40"}, "length_m": 7.0}]}, {"id": "AC1", "kind": "inverter_out", "name": "Inverter to board", "wire": {"mm2": 6.0, "cable": "pvc70", "material": "cu", "insulation": "THWN-2"}, "ocpd_a": 32.0, "neutral": true, "inverter": "INV1", "segments": [{"place": "inside", "method": "raceway", "raceway": {"kind": "medium", "size": "25"}, "length_m": 11.0}]}], "site": {"faces": [{"id": "s", "name": "south", "tilt_deg": 30.0, "azimuth_deg": 185.0}, {"id": "e", "name": "east dormer", "tilt_deg": 40.0, "azimuth_deg": 95.0}, {"id": "w", "name": "west", "tilt_deg": 30.0, "azimuth_deg": 275.0}], "t_max_c": 31.0, "t_min_c": -6.0, "building": "building", "mounting": "flush", "cold_method": "coefficient", "cell_rise_hot_c": null}, "notes": "Three planes with shade, so an optimizer on each module. Export limit and remote switch-off come with a later stage.", "school": "iec", "address": "Tern Bay, Harbour Road", "strings": [{"n": 20, "face": "s", "mppt": 1, "letter": "A", "module": {"sheet": "brightmoor-bm-440", "revision": 1}, "inverter": "INV1", "optimizer": {"sheet": "wren-p-460", "revision": 1}}, {"n": 14, "face": "w", "mppt": 2, "letter": "B", "module": {"sheet": "brightmoor-bm-440", "revision": 1}, "inverter": "INV1", "optimizer": {"sheet": "wren-p-460", "revision": 1}}, {"n": 10, "face": "e", "mppt": 2, "letter": "C", "module": {"sheet": "brightmoor-bm-440", "revision": 1}, "inverter": "INV1", "optimizer": {"sheet": "wren-p-460", "revision": 1}}], "settings": {}, "inverters": [{"id": "INV1", "sheet": {"sheet": "stellan-s16-3f", "revision": 1}}]}, "library": {"micros": [], "modules": [{"demo": true, "maker": "Brightmoor", "model": "BM-440", "sheet": "brightmoor-bm-440", "lead_m": 1.2, "ratings": {"imp_a": 13.26, "isc_a": 14.05, "vmp_v": 33.2, "voc_v": 39.7, "nmot_c": 43.0, "pmax_w": 440.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.25, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.29, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 1, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.4}], "inverters": [{"ac_a": 23.2, "ac_v": 400.0, "ac_w": 16000.0, "demo": true, "maker": "Stellan", "model": "S16-3F", "mppts": [{"mppt_max_v": 850.0, "mppt_min_v": 180.0, "connectors_n": 2.0, "mppt_w_max_w": 12000.0, "mppt_imp_max_a": 36.0, "mppt_isc_max_a": 45.0, "full_power_max_v": 800.0, "full_power_min_v": 380.0}, {"mppt_max_v": 850.0, "mppt_min_v": 180.0, "connectors_n": 2.0, "mppt_w_max_w": 12000.0, "mppt_imp_max_a": 36.0, "mppt_isc_max_a": 45.0, "full_power_max_v": 800.0, "full_power_min_v": 380.0}], "sheet": "stellan-s16-3f", "start_v": 200.0, "revision": 1, "switch_on": "dc_first", "vdc_max_v": 1000.0, "weight_kg": 29.0, "dc_w_max_w": 24000.0, "max_ocpd_a": 40.0, "reconnect_s": 60.0, "three_phase": true}], "optimizers": [{"demo": true, "maker": "Wren", "model": "P-460", "sheet": "wren-p-460", "ratings": {"n_max": 25.0, "n_min": 8.0, "safety_v": 1.0, "string_v": 750.0, "in_v_max_v": 60.0, "in_w_max_w": 460.0, "out_a_max_a": 15.0, "in_isc_max_a": 15.5, "string_w_max_w": 11250.0}, "revision": 1}]}}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.job_revisions VALUES ('4aceaa7d-58f2-4d1a-8581-202f1154019e', 2, '{"job": {"name": "Kestrel Lane workshop", "runs": [{"id": "DC1", "kind": "pv_string", "name": "Roof box to inverter", "wire": {"awg": "8", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "neutral": false, "strings": ["A", "B", "C"], "segments": [{"place": "attic", "method": "raceway", "raceway": {"kind": "emt", "size": "3/4"}, "length_m": 6.1}, {"place": "cavity", "method": "raceway", "raceway": {"kind": "emt", "size": "3/4"}, "length_m": 9.4}, {"place": "garage", "method": "raceway", "raceway": {"kind": "emt", "size": "1"}, "length_m": 4.0}]}, {"id": "AC1", "kind": "inverter_out", "name": "Inverter to panel", "wire": {"awg": "8", "cable": "solar", "material": "cu", "insulation": "THWN-2"}, "ocpd_a": 45.0, "neutral": true, "inverter": "INV1", "segments": [{"place": "garage", "method": "raceway", "raceway": {"kind": "emt", "size": "1"}, "length_m": 7.2}]}], "site": {"faces": [{"id": "se", "name": "south-east", "tilt_deg": 30.0, "azimuth_deg": 135.0}, {"id": "sw", "name": "south-west", "tilt_deg": 30.0, "azimuth_deg": 225.0}], "t_max_c": 33.0, "t_min_c": -24.0, "building": "dwelling_1_2", "mounting": "flush", "cold_method": "coefficient", "cell_rise_hot_c": null}, "notes": "Saved by the version before documents carried theirs.", "panel": {"bus_a": 200.0, "main_a": 150.0, "load_calc_a": 118.0, "pv_at_far_end": true, "load_breakers_a": [40.0, 30.0, 30.0, 20.0, 20.0, 20.0, 15.0, 15.0]}, "school": "na", "address": "14 Kestrel Lane", "strings": [{"n": 12, "face": "se", "mppt": 1, "letter": "A", "module": {"sheet": "brightmoor-bm-430", "revision": 2}, "inverter": "INV1"}, {"n": 7, "face": "sw", "mppt": 2, "letter": "B", "module": {"sheet": "brightmoor-bm-430", "revision": 2}, "inverter": "INV1"}, {"n": 7, "face": "sw", "mppt": 2, "letter": "C", "module": {"sheet": "brightmoor-bm-430", "revision": 2}, "inverter": "INV1"}], "settings": {}, "inverters": [{"id": "INV1", "sheet": {"sheet": "stellan-s8-2", "revision": 4}}]}, "library": {"micros": [], "modules": [{"demo": true, "maker": "Brightmoor", "model": "BM-430", "sheet": "brightmoor-bm-430", "lead_m": 1.2, "ratings": {"imp_a": 13.05, "isc_a": 13.85, "vmp_v": 33.0, "voc_v": 39.4, "nmot_c": 43.0, "pmax_w": 430.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.26, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.3, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 2, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.3}], "inverters": [{"ac_a": 33.3, "ac_v": 240.0, "ac_w": 8000.0, "demo": true, "maker": "Stellan", "model": "S8-2", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6400.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}, {"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6400.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}], "sheet": "stellan-s8-2", "start_v": 110.0, "revision": 4, "switch_on": "dc_first", "vdc_max_v": 600.0, "weight_kg": 19.5, "dc_w_max_w": 12000.0, "max_ocpd_a": 50.0, "reconnect_s": 300.0, "three_phase": false}], "optimizers": []}}', '2026-11-25 19:30:57.005789+00', 'Mira Voss');
INSERT INTO public.jobs VALUES ('b8f9b148-197c-45f0-8b97-8c6745e4bc25', 'Quarry Cottage', 'iec', 1, 'unknown', '{"fail": 0, "pass": 26, "warn": 1, "unknown": 1}', '2026-11-25 19:30:50.804247+00', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.jobs VALUES ('d5a07d8e-554b-4296-b828-055a32c74742', 'Pinyon Street duplex', 'na', 1, 'fail', '{"fail": 1, "pass": 29, "warn": 0, "unknown": 0}', '2026-11-25 19:30:50.804247+00', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.jobs VALUES ('1ea3fb79-7cc5-4b1a-8572-5da08822cda8', 'Tern Bay school hall', 'iec', 1, 'unknown', '{"fail": 0, "pass": 39, "warn": 1, "unknown": 3}', '2026-11-25 19:30:50.804247+00', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt');
INSERT INTO public.jobs VALUES ('4aceaa7d-58f2-4d1a-8581-202f1154019e', 'Kestrel Lane workshop', 'na', 2, 'fail', '{"fail": 3, "pass": 45, "warn": 3, "unknown": 1}', '2026-11-25 19:30:50.804247+00', '2026-11-25 19:30:57.053002+00', 'Mira Voss');
INSERT INTO public.readings OVERRIDING SYSTEM VALUE VALUES ('87d0f1f7-faeb-447d-a585-fc7c045addaa', 1, '4aceaa7d-58f2-4d1a-8581-202f1154019e', '2026-10-14 17:36:00+00', 'Ines Rowe', NULL, '{"at": "2026-10-14T17:36:00Z", "by": "Ines Rowe", "id": "d0000000-0000-4000-8000-000000000001", "values": {"voc_v": 441.8, "back_c": 39.2, "string": "A", "irradiance_w_m2": 612.0}}');
INSERT INTO public.readings OVERRIDING SYSTEM VALUE VALUES ('9b48d279-0ad9-442a-bd6f-2788ec2ee50a', 2, '4aceaa7d-58f2-4d1a-8581-202f1154019e', '2026-10-14 17:42:00+00', 'Ines Rowe', NULL, '{"at": "2026-10-14T17:42:00Z", "by": "Ines Rowe", "id": "d0000000-0000-4000-8000-000000000002", "values": {"voc_v": 185.1, "back_c": 39.6, "string": "B", "irradiance_w_m2": 618.0}}');
INSERT INTO public.readings OVERRIDING SYSTEM VALUE VALUES ('72990668-5ed9-4600-aa26-92167e7c765b', 3, '4aceaa7d-58f2-4d1a-8581-202f1154019e', '2026-11-25 19:30:57+00', 'Mira Voss', 'ee5bb163-1500-402c-b205-617105735b6d', '{"at": "2026-11-25T19:30:57Z", "by": "Mira Voss", "id": "72990668-5ed9-4600-aa26-92167e7c765b", "values": {"voc_v": 450.0, "back_c": 40.0, "string": "A", "irradiance_w_m2": 800.0}}');
INSERT INTO public.sheets VALUES ('module', 'brightmoor-bm-430', 1, '{"demo": true, "maker": "Brightmoor", "model": "BM-430", "sheet": "brightmoor-bm-430", "lead_m": 1.2, "ratings": {"imp_a": 13.11, "isc_a": 13.9, "vmp_v": 32.8, "voc_v": 39.2, "nmot_c": 44.0, "pmax_w": 430.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.27, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.34, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 1, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.5}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('module', 'brightmoor-bm-430', 2, '{"demo": true, "maker": "Brightmoor", "model": "BM-430", "sheet": "brightmoor-bm-430", "lead_m": 1.2, "ratings": {"imp_a": 13.05, "isc_a": 13.85, "vmp_v": 33.0, "voc_v": 39.4, "nmot_c": 43.0, "pmax_w": 430.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.26, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.3, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 2, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.3}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('module', 'brightmoor-bm-440', 1, '{"demo": true, "maker": "Brightmoor", "model": "BM-440", "sheet": "brightmoor-bm-440", "lead_m": 1.2, "ratings": {"imp_a": 13.26, "isc_a": 14.05, "vmp_v": 33.2, "voc_v": 39.7, "nmot_c": 43.0, "pmax_w": 440.0, "a_isc_pct_c": 0.045, "b_voc_pct_c": -0.25, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.29, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 25.0, "cells_series_n": 54.0}, "depth_mm": 30.0, "revision": 1, "width_mm": 1722.0, "length_mm": 1134.0, "weight_kg": 21.4}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('module', 'oxbow-ox-395', 1, '{"demo": true, "maker": "Oxbow", "model": "OX-395", "sheet": "oxbow-ox-395", "lead_m": 0.6, "ratings": {"imp_a": 12.71, "isc_a": 13.55, "vmp_v": 31.1, "voc_v": 37.1, "nmot_c": 45.0, "pmax_w": 395.0, "a_isc_pct_c": 0.05, "b_voc_pct_c": -0.27, "c_vmp_pct_c": null, "g_pmax_pct_c": -0.35, "max_system_v": 1000.0, "bifacial_gain": null, "series_fuse_a": 20.0, "cells_series_n": 54.0}, "depth_mm": 35.0, "revision": 1, "width_mm": 1690.0, "length_mm": 1046.0, "weight_kg": 20.2}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('inverter', 'stellan-s8-2', 3, '{"ac_a": 33.3, "ac_v": 240.0, "ac_w": 8000.0, "demo": true, "maker": "Stellan", "model": "S8-2", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6500.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}, {"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6500.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}], "sheet": "stellan-s8-2", "start_v": 110.0, "revision": 3, "switch_on": "dc_first", "vdc_max_v": 600.0, "weight_kg": 19.5, "dc_w_max_w": 12000.0, "max_ocpd_a": 50.0, "reconnect_s": 300.0, "three_phase": false}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('inverter', 'stellan-s8-2', 4, '{"ac_a": 33.3, "ac_v": 240.0, "ac_w": 8000.0, "demo": true, "maker": "Stellan", "model": "S8-2", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6400.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}, {"mppt_max_v": 560.0, "mppt_min_v": 90.0, "connectors_n": 2.0, "mppt_w_max_w": 6400.0, "mppt_imp_max_a": 27.0, "mppt_isc_max_a": 30.0, "full_power_max_v": 480.0, "full_power_min_v": 240.0}], "sheet": "stellan-s8-2", "start_v": 110.0, "revision": 4, "switch_on": "dc_first", "vdc_max_v": 600.0, "weight_kg": 19.5, "dc_w_max_w": 12000.0, "max_ocpd_a": 50.0, "reconnect_s": 300.0, "three_phase": false}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('inverter', 'stellan-s12-3t', 1, '{"ac_a": 17.4, "ac_v": 400.0, "ac_w": 12000.0, "demo": true, "maker": "Stellan", "model": "S12-3T", "mppts": [{"mppt_max_v": 850.0, "mppt_min_v": 180.0, "connectors_n": 2.0, "mppt_w_max_w": 9000.0, "mppt_imp_max_a": 30.0, "mppt_isc_max_a": 40.0, "full_power_max_v": 800.0, "full_power_min_v": 380.0}, {"mppt_max_v": 850.0, "mppt_min_v": 180.0, "connectors_n": 2.0, "mppt_w_max_w": 9000.0, "mppt_imp_max_a": 30.0, "mppt_isc_max_a": 40.0, "full_power_max_v": 800.0, "full_power_min_v": 380.0}], "sheet": "stellan-s12-3t", "start_v": 200.0, "revision": 1, "switch_on": "dc_first", "vdc_max_v": 1000.0, "weight_kg": 24.0, "dc_w_max_w": 18000.0, "max_ocpd_a": 25.0, "reconnect_s": 60.0, "three_phase": true}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('inverter', 'marrow-h6', 1, '{"ac_a": 26.1, "ac_v": 230.0, "ac_w": 6000.0, "demo": true, "maker": "Marrow", "model": "H6", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 100.0, "connectors_n": 1.0, "mppt_w_max_w": 7000.0, "mppt_imp_max_a": 18.0, "mppt_isc_max_a": 22.0, "full_power_max_v": 500.0, "full_power_min_v": 250.0}, {"mppt_max_v": 560.0, "mppt_min_v": 100.0, "connectors_n": 1.0, "mppt_w_max_w": 7000.0, "mppt_imp_max_a": 18.0, "mppt_isc_max_a": 22.0, "full_power_max_v": 500.0, "full_power_min_v": 250.0}], "sheet": "marrow-h6", "start_v": 120.0, "revision": 1, "switch_on": "ac_first", "vdc_max_v": 650.0, "weight_kg": 27.0, "dc_w_max_w": 9000.0, "max_ocpd_a": 40.0, "reconnect_s": 60.0, "three_phase": false}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('inverter', 'marrow-h6', 2, '{"ac_a": 26.1, "ac_v": 230.0, "ac_w": 6000.0, "demo": true, "maker": "Marrow", "model": "H6", "mppts": [{"mppt_max_v": 560.0, "mppt_min_v": 100.0, "connectors_n": 1.0, "mppt_w_max_w": 3500.0, "mppt_imp_max_a": 18.0, "mppt_isc_max_a": 22.0, "full_power_max_v": 500.0, "full_power_min_v": 250.0}, {"mppt_max_v": 560.0, "mppt_min_v": 100.0, "connectors_n": 1.0, "mppt_w_max_w": 3500.0, "mppt_imp_max_a": 18.0, "mppt_isc_max_a": 22.0, "full_power_max_v": 500.0, "full_power_min_v": 250.0}], "sheet": "marrow-h6", "start_v": 120.0, "revision": 2, "switch_on": "ac_first", "vdc_max_v": 650.0, "weight_kg": 27.0, "dc_w_max_w": 9000.0, "max_ocpd_a": 40.0, "reconnect_s": 60.0, "three_phase": false}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('inverter', 'stellan-s16-3f', 1, '{"ac_a": 23.2, "ac_v": 400.0, "ac_w": 16000.0, "demo": true, "maker": "Stellan", "model": "S16-3F", "mppts": [{"mppt_max_v": 850.0, "mppt_min_v": 180.0, "connectors_n": 2.0, "mppt_w_max_w": 12000.0, "mppt_imp_max_a": 36.0, "mppt_isc_max_a": 45.0, "full_power_max_v": 800.0, "full_power_min_v": 380.0}, {"mppt_max_v": 850.0, "mppt_min_v": 180.0, "connectors_n": 2.0, "mppt_w_max_w": 12000.0, "mppt_imp_max_a": 36.0, "mppt_isc_max_a": 45.0, "full_power_max_v": 800.0, "full_power_min_v": 380.0}], "sheet": "stellan-s16-3f", "start_v": 200.0, "revision": 1, "switch_on": "dc_first", "vdc_max_v": 1000.0, "weight_kg": 29.0, "dc_w_max_w": 24000.0, "max_ocpd_a": 40.0, "reconnect_s": 60.0, "three_phase": true}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('optimizer', 'wren-p-460', 1, '{"demo": true, "maker": "Wren", "model": "P-460", "sheet": "wren-p-460", "ratings": {"n_max": 25.0, "n_min": 8.0, "safety_v": 1.0, "string_v": 750.0, "in_v_max_v": 60.0, "in_w_max_w": 460.0, "out_a_max_a": 15.0, "in_isc_max_a": 15.5, "string_w_max_w": 11250.0}, "revision": 1}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
INSERT INTO public.sheets VALUES ('micro', 'wren-w-330', 1, '{"ac_a": 1.38, "ac_v": 240.0, "ac_w": 330.0, "demo": true, "maker": "Wren", "model": "W-330", "sheet": "wren-w-330", "trunk": {"pitch_m": 1.3, "section_ohm": 0.0142}, "revision": 1, "weight_kg": 1.1, "in_v_max_v": 60.0, "mppt_max_v": 50.0, "mppt_min_v": 22.0, "reconnect_s": 300.0, "branch_max_n": 11.0, "in_isc_max_a": 18.0}', '2026-11-25 19:30:50.804247+00', 'Tomas Brandt', 'demo data');
SELECT pg_catalog.setval('public.readings_seq_seq', 3, true);
SELECT pg_catalog.setval('public.sheet_states_seq_seq', 1, false);
SELECT pg_catalog.setval('public.sign_in_failures_id_seq', 1, false);
ALTER TABLE ONLY public.__diesel_schema_migrations
    ADD CONSTRAINT __diesel_schema_migrations_pkey PRIMARY KEY (version);
ALTER TABLE ONLY public.accounts
    ADD CONSTRAINT accounts_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.accounts
    ADD CONSTRAINT accounts_sign_in_key UNIQUE (sign_in);
ALTER TABLE ONLY public.job_revisions
    ADD CONSTRAINT job_revisions_pkey PRIMARY KEY (job_id, revision);
ALTER TABLE ONLY public.jobs
    ADD CONSTRAINT jobs_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.readings
    ADD CONSTRAINT readings_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.sessions
    ADD CONSTRAINT sessions_pkey PRIMARY KEY (token_hash);
ALTER TABLE ONLY public.sheet_states
    ADD CONSTRAINT sheet_states_pkey PRIMARY KEY (seq);
ALTER TABLE ONLY public.sheets
    ADD CONSTRAINT sheets_pkey PRIMARY KEY (kind, sheet, revision);
ALTER TABLE ONLY public.sign_in_failures
    ADD CONSTRAINT sign_in_failures_pkey PRIMARY KEY (id);
CREATE INDEX job_revisions_library ON public.job_revisions USING gin (((document -> 'library'::text)) jsonb_path_ops);
CREATE INDEX jobs_updated_at ON public.jobs USING btree (updated_at DESC);
CREATE INDEX readings_job ON public.readings USING btree (job_id, seq);
CREATE INDEX sessions_expires_at ON public.sessions USING btree (expires_at);
CREATE INDEX sheet_states_sheet ON public.sheet_states USING btree (kind, sheet, seq DESC);
CREATE INDEX sign_in_failures_at ON public.sign_in_failures USING btree (at);
CREATE TRIGGER job_revisions_only_added BEFORE DELETE OR UPDATE ON public.job_revisions FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER readings_only_added BEFORE DELETE OR UPDATE ON public.readings FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER sheet_states_only_added BEFORE DELETE OR UPDATE ON public.sheet_states FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER sheets_only_added BEFORE DELETE OR UPDATE ON public.sheets FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
ALTER TABLE ONLY public.job_revisions
    ADD CONSTRAINT job_revisions_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.jobs(id);
ALTER TABLE ONLY public.readings
    ADD CONSTRAINT readings_entered_by_fkey FOREIGN KEY (entered_by) REFERENCES public.accounts(id);
ALTER TABLE ONLY public.readings
    ADD CONSTRAINT readings_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.jobs(id);
ALTER TABLE ONLY public.sessions
    ADD CONSTRAINT sessions_account_id_fkey FOREIGN KEY (account_id) REFERENCES public.accounts(id) ON DELETE CASCADE;

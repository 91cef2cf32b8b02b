//! The tables as Diesel sees them; made by the migrations.

#![allow(missing_docs, reason = "the macro writes modules and items without comments")]

diesel::table! {
    accounts (id) {
        id -> Uuid,
        name -> Text,
        sign_in -> Text,
        role -> Text,
        password_hash -> Text,
        disabled -> Bool,
        created_at -> Timestamptz,
        link_until -> Nullable<Timestamptz>,
        shown -> Jsonb,
    }
}
diesel::table! {
    sessions (token_hash) {
        token_hash -> Binary,
        account_id -> Uuid,
        created_at -> Timestamptz,
        expires_at -> Timestamptz,
    }
}
diesel::table! {
    sign_in_failures (id) {
        id -> BigInt,
        sign_in -> Text,
        address -> Text,
        at -> Timestamptz,
        device -> Nullable<Binary>,
    }
}
diesel::table! {
    devices (token_hash) { token_hash -> Binary, account_id -> Uuid, seen_at -> Timestamptz, }
}
diesel::table! {
    password_links (token_hash) {
        token_hash -> Binary,
        account_id -> Uuid,
        made_by -> Text,
        expires_at -> Timestamptz,
    }
}
diesel::table! {
    jobs (id) {
        id -> Uuid,
        name -> Text,
        school -> Text,
        revision -> Integer,
        verdict -> Text,
        counts -> Jsonb,
        created_at -> Timestamptz,
        updated_at -> Timestamptz,
        updated_by -> Text,
        readings_n -> Integer,
        serials -> Array<Text>,
        sheets -> Array<Text>,
        archived_at -> Nullable<Timestamptz>,
        said -> Text,
        kept -> Array<Text>,
        template -> Bool,
    }
}
diesel::table! {
    job_revisions (job_id, revision) {
        job_id -> Uuid,
        revision -> Integer,
        document -> Jsonb,
        saved_at -> Timestamptz,
        saved_by -> Text,
        version -> Integer,
    }
}
diesel::table! {
    readings (id) {
        id -> Uuid,
        seq -> BigInt,
        job_id -> Uuid,
        taken_at -> Timestamptz,
        taken_by -> Text,
        entered_by -> Nullable<Uuid>,
        reading -> Jsonb,
        version -> Integer,
    }
}
diesel::table! {
    sheets (kind, sheet, revision) {
        kind -> Text,
        sheet -> Text,
        revision -> Integer,
        document -> Jsonb,
        entered_at -> Timestamptz,
        entered_by -> Text,
        from_document -> Text,
        version -> Integer,
    }
}
diesel::table! {
    sheet_states (seq) {
        seq -> BigInt,
        kind -> Text,
        sheet -> Text,
        retired -> Bool,
        by -> Text,
        at -> Timestamptz,
    }
}
diesel::table! {
    packs (job_id, revision, readings_n) {
        job_id -> Uuid,
        revision -> Integer,
        readings_n -> Integer,
        edition -> Text,
        state -> Text,
        phase -> Text,
        asked_by -> Text,
        asked_by_id -> Nullable<Uuid>,
        asked_at -> Timestamptz,
        begun_at -> Nullable<Timestamptz>,
        alive_at -> Nullable<Timestamptz>,
        took_ms -> Nullable<Integer>,
        problem -> Nullable<Text>,
        pdf -> Nullable<Binary>,
        put_first -> Nullable<Timestamptz>,
    }
}
diesel::table! {
    pack_appendices (job_id, revision, readings_n, n) {
        job_id -> Uuid,
        revision -> Integer,
        readings_n -> Integer,
        n -> Integer,
        pdf -> Binary,
    }
}
diesel::table! {
    consequences (kind, sheet, revision, job_id) {
        kind -> Text,
        sheet -> Text,
        revision -> Integer,
        job_id -> Uuid,
        job_revision -> Integer,
        edition -> Text,
        worst -> SmallInt,
        effect -> Nullable<Jsonb>,
    }
}
diesel::table! {
    revision_names (job_id, revision) {
        job_id -> Uuid,
        revision -> Integer,
        name -> Text,
        named_by -> Text,
        named_at -> Timestamptz,
    }
}
diesel::table! {
    withdrawals (job_id, reading) {
        job_id -> Uuid,
        reading -> Text,
        withdrawn_at -> Timestamptz,
        withdrawn_by -> Text,
        reason -> Text,
        record_n -> Integer,
    }
}
diesel::table! {
    seats (account_id, job_id) {
        account_id -> Uuid,
        job_id -> Uuid,
        given_by -> Text,
        given_at -> Timestamptz,
        revision -> Nullable<Integer>,
    }
}
diesel::table! {
    company (one) { one -> Bool, shown -> Jsonb, rates -> Jsonb, }
}
diesel::joinable!(sessions -> accounts (account_id));
diesel::joinable!(packs -> jobs (job_id));
diesel::joinable!(devices -> accounts (account_id));
diesel::joinable!(seats -> accounts (account_id));
diesel::allow_tables_to_appear_in_same_query!(sessions, accounts, devices, seats);
diesel::allow_tables_to_appear_in_same_query!(jobs, seats);
diesel::allow_tables_to_appear_in_same_query!(
    packs,
    pack_appendices,
    jobs,
    job_revisions,
    consequences
);
diesel::allow_tables_to_appear_in_same_query!(job_revisions, revision_names);

//! Accounts, invitations, sessions, and failed attempts to sign in.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE account (
    id uuid PRIMARY KEY,
    login text NOT NULL UNIQUE CHECK (login = lower(login) AND login <> ''),
    name text NOT NULL CHECK (name <> ''),
    role text NOT NULL CHECK (role IN ('administrator', 'author', 'second_reader', 'learner')),
    -- Null for the accounts of the demonstration, which nobody can sign in to with a password.
    password_hash text,
    version integer NOT NULL DEFAULT 1 CHECK (version > 0),
    created_at timestamptz NOT NULL,
    disabled_at timestamptz
);
-- Secrets are kept as SHA-256 of 256 random bits: who reads the table can neither join nor impersonate.
CREATE TABLE invitation (
    id uuid PRIMARY KEY,
    token_hash bytea NOT NULL UNIQUE,
    role text NOT NULL,
    note text NOT NULL,
    created_by uuid REFERENCES account (id),
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at timestamptz,
    revoked_at timestamptz
);
CREATE TABLE session (
    id uuid PRIMARY KEY,
    token_hash bytea NOT NULL UNIQUE,
    account_id uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    created_at timestamptz NOT NULL,
    last_seen_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL
);
CREATE INDEX session_account ON session (account_id);
CREATE TABLE sign_in_failure (
    id uuid PRIMARY KEY,
    login text NOT NULL,
    address text NOT NULL,
    at timestamptz NOT NULL
);
CREATE INDEX sign_in_failure_place ON sign_in_failure (login, address, at);
";

const DOWN: &str = "DROP TABLE sign_in_failure; DROP TABLE session; DROP TABLE invitation; DROP TABLE account;";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}

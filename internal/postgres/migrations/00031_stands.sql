-- +goose Up
-- What is kept of a room stands against others: what is booked or asked for, and a hold until it
-- is over, but not against who holds it. With no reader every hold stands.
CREATE FUNCTION stands(kind text, until timestamptz, owner uuid, reader uuid, at timestamptz) RETURNS boolean
    LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT kind <> 'hold' OR until > at AND owner IS DISTINCT FROM reader $$;

-- +goose Down
DROP FUNCTION stands(text, timestamptz, uuid, uuid, timestamptz);

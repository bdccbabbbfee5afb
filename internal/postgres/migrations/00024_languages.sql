-- +goose Up
-- In which language letters go to an address (BCP 47): own tells that its reader said so.
CREATE TABLE reader_language (
    email    text PRIMARY KEY, -- in lower case
    language text NOT NULL,
    own      boolean NOT NULL
);

-- +goose Down
DROP TABLE reader_language;

-- name: ReaderLanguages :many
SELECT * FROM reader_language WHERE email = ANY(@emails::text[]);

-- name: KeepLanguage :exec
-- What its reader said stands above what others say of them.
INSERT INTO reader_language (email, language, own) VALUES (lower(@email), @language, @own)
ON CONFLICT (email) DO UPDATE SET language = excluded.language, own = excluded.own WHERE excluded.own OR NOT reader_language.own;

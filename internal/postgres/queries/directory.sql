-- name: PersonByEmail :one
SELECT sqlc.embed(p), s.name AS site, s.holidays FROM person p JOIN site s ON s.id = p.site_id WHERE lower(p.email) = lower(@email);

-- name: PeopleByID :many
SELECT sqlc.embed(p), s.name AS site, s.holidays FROM person p JOIN site s ON s.id = p.site_id WHERE p.id = ANY(@ids::uuid[]);

-- name: PeopleByEmail :many
SELECT sqlc.embed(p), s.name AS site, s.holidays FROM person p JOIN site s ON s.id = p.site_id WHERE lower(p.email) = ANY(@emails::text[]);

-- name: ContactsByEmail :many
SELECT * FROM contact WHERE lower(email) = ANY(@emails::text[]);

-- name: SearchDirectory :many
-- People first, then contacts outside; names that begin with the words first.
SELECT id, name, email, about, outside FROM (
    SELECT p.id, p.name, p.email, (p.role || ' · ' || s.name)::text AS about, false AS outside, p.fold
    FROM person p JOIN site s ON s.id = p.site_id WHERE p.id <> @without AND p.left_at IS NULL
    UNION ALL
    SELECT c.id, c.name, c.email, c.firm::text, true, c.fold FROM contact c
) d
WHERE d.fold LIKE '%' || @pattern::text || '%'
ORDER BY d.outside, NOT d.fold LIKE @pattern::text || '%', d.name, d.id
LIMIT @most OFFSET @skip;

-- name: DirectoryByNames :many
-- For each name, those of the directory who could be meant, a few of them: whose name
-- or address holds all of it, those whose name begins with it first.
SELECT q.number::int AS number, d.id, d.name, d.email, d.about, d.outside FROM unnest(@patterns::text[]) WITH ORDINALITY q(pattern, number)
CROSS JOIN LATERAL (
    SELECT e.id, e.name, e.email, e.about, e.outside, e.fold FROM (
        SELECT p.id, p.name, p.email, (p.role || ' · ' || s.name)::text AS about, false AS outside, p.fold
        FROM person p JOIN site s ON s.id = p.site_id WHERE p.left_at IS NULL
        UNION ALL
        SELECT c.id, c.name, c.email, c.firm::text, true, c.fold FROM contact c
    ) e
    WHERE e.fold LIKE '%' || q.pattern || '%'
    ORDER BY e.outside, NOT e.fold LIKE q.pattern || '%', e.name, e.id
    LIMIT @most
) d ORDER BY q.number, d.outside, NOT d.fold LIKE q.pattern || '%', d.name, d.id;

-- name: RoomsByEmail :many
SELECT sqlc.embed(r), s.name AS site, s.holidays, s.zone,
    ARRAY(SELECT k.person_id FROM room_keeper k WHERE k.room_id = r.id ORDER BY k.place)::uuid[] AS keepers,
    ARRAY(SELECT id FROM person WHERE keeps_rooms AND left_at IS NULL)::uuid[] AS keep_all
FROM room r JOIN site s ON s.id = r.site_id WHERE lower(r.email) = ANY(@emails::text[]) ORDER BY r.id;

-- name: Rooms :many
SELECT sqlc.embed(r), s.name AS site, s.holidays, s.zone,
    ARRAY(SELECT k.person_id FROM room_keeper k WHERE k.room_id = r.id ORDER BY k.place)::uuid[] AS keepers,
    ARRAY(SELECT id FROM person WHERE keeps_rooms AND left_at IS NULL)::uuid[] AS keep_all
FROM room r JOIN site s ON s.id = r.site_id ORDER BY s.name, r.name, r.id LIMIT @most OFFSET @skip;

-- name: RoomsByID :many
SELECT sqlc.embed(r), s.name AS site, s.holidays, s.zone,
    ARRAY(SELECT k.person_id FROM room_keeper k WHERE k.room_id = r.id ORDER BY k.place)::uuid[] AS keepers,
    ARRAY(SELECT id FROM person WHERE keeps_rooms AND left_at IS NULL)::uuid[] AS keep_all
FROM room r JOIN site s ON s.id = r.site_id WHERE r.id = ANY(@ids::uuid[]) ORDER BY s.name, r.name, r.id;

-- name: InsertSite :exec
INSERT INTO site (id, name, zone, holidays) VALUES (@id, @name, @zone, @holidays);

-- name: InsertPerson :exec
INSERT INTO person (id, name, email, role, site_id, zone, hours, password_hash, fold, keeps_rooms, keeps_providers)
VALUES (@id, @name, @email, @role, @site_id, @zone, @hours, @password_hash, @fold, @keeps_rooms, @keeps_providers);

-- name: InsertContact :exec
INSERT INTO contact (id, name, firm, email, zone, hours, fold) VALUES (@id, @name, @firm, @email, @zone, @hours, @fold);

-- name: InsertRoom :exec
INSERT INTO room (id, site_id, name, floor, seats, equipment, email, directions, link, rules)
VALUES (@id, @site_id, @name, @floor, @seats, @equipment, @email, @directions, @link, @rules);

-- name: CountPeople :one
SELECT count(*) FROM person;

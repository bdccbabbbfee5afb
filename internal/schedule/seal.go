package schedule

import (
	"bytes"
	"crypto/aes"
	"crypto/cipher"
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base32"
	"encoding/binary"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"
)

// Seal makes addresses that nobody can guess, and keeps secrets at rest. It
// needs nothing stored: every instance with the same secret agrees. Addresses that were given
// out under a secret of before still hold, and what was sealed with it can be read.
type Seal struct {
	keys
	before []keys
}

// keys are what one secret gives.
type keys struct {
	guest, reply, meeting, feed, back, invite []byte
	box                                       cipher.AEAD
	id                                        [4]byte // of box
}

// NewSeal derives its keys from a secret of at least 16 bytes; before are those that held
// earlier.
func NewSeal(secret []byte, before ...[]byte) (*Seal, error) {
	s := &Seal{}
	var err error
	if s.keys, err = newKeys(secret); err != nil {
		return nil, err
	}
	for _, old := range before {
		k, err := newKeys(old)
		if err != nil {
			return nil, err
		}
		s.before = append(s.before, k)
	}
	return s, nil
}

func newKeys(secret []byte) (k keys, err error) {
	if len(secret) < 16 {
		return k, errors.New("the secret needs at least 16 bytes")
	}
	key := func(purpose string, to *[]byte) {
		if err == nil {
			*to, err = hkdf.Key(sha256.New, secret, nil, "jembro "+purpose, 32)
		}
	}
	var atRest, id []byte
	key("guest page", &k.guest)
	key("reply address", &k.reply)
	key("meeting address", &k.meeting)
	key("busy times", &k.feed)
	key("return address", &k.back)
	key("invitation address", &k.invite)
	key("tokens at rest", &atRest)
	key("name of the key at rest", &id)
	if err != nil {
		return k, err
	}
	copy(k.id[:], id)
	block, err := aes.NewCipher(atRest)
	if err != nil {
		return k, err
	}
	k.box, err = cipher.NewGCM(block)
	return k, err
}

// all are the keys of now and of before.
func (s *Seal) all() []keys { return append([]keys{s.keys}, s.before...) }

// Mail servers may change the case of an address, so the letters are all small.
var letters = base32.StdEncoding.WithPadding(base32.NoPadding)

const macBytes = 12

func sign(key []byte, id uuid.UUID, more ...byte) string {
	mac := hmac.New(sha256.New, key)
	named := slices.Concat(id[:], more)
	mac.Write(named)
	return strings.ToLower(letters.EncodeToString(append(named, mac.Sum(nil)[:macBytes]...)))
}

// verified reads a token that was signed with the key that of gives, now or before.
func (s *Seal) verified(token string, of func(keys) []byte) (id uuid.UUID, err error) {
	for _, k := range s.all() {
		if id, more, err := verify(of(k), token); err == nil && len(more) == 0 {
			return id, nil
		}
	}
	return uuid.Nil, ErrNotFound
}

// verify reads what was signed: the name, and what was signed with it.
func verify(key []byte, token string) (id uuid.UUID, more []byte, err error) {
	raw, err := letters.DecodeString(strings.ToUpper(token))
	if err != nil || len(raw) < 16+macBytes {
		return uuid.Nil, nil, ErrNotFound
	}
	id, more = uuid.UUID(raw[:16]), raw[16:len(raw)-macBytes]
	if !hmac.Equal([]byte(sign(key, id, more...)), []byte(strings.ToLower(token))) {
		return uuid.Nil, nil, ErrNotFound
	}
	return id, more, nil
}

// GuestToken names the page of a participant: 45 letters and digits, and 48 once the address was
// made anew.
func (s *Seal) GuestToken(participant uuid.UUID, page int) string {
	return sign(s.guest, participant, pageBytes(page)...)
}

// Guest is whose page a token names, and how often its address had been made anew; it fails with
// ErrNotFound.
func (s *Seal) Guest(token string) (participant uuid.UUID, page int, err error) {
	for _, k := range s.all() {
		id, more, err := verify(k.guest, token)
		if err == nil && len(more) == 2 {
			return id, int(binary.BigEndian.Uint16(more)), nil
		}
		if err == nil && len(more) == 0 {
			return id, 0, nil
		}
	}
	return uuid.Nil, 0, ErrNotFound
}

// pageBytes are none for an address that was never made anew.
func pageBytes(page int) []byte {
	if page == 0 {
		return nil
	}
	return binary.BigEndian.AppendUint16(nil, uint16(page))
}

// FeedToken names the secret address of somebody's busy times: 45 letters and digits.
func (s *Seal) FeedToken(feed uuid.UUID) string { return sign(s.feed, feed) }

// Feed is which address a token names; it fails with ErrNotFound.
func (s *Seal) Feed(token string) (uuid.UUID, error) {
	return s.verified(token, func(k keys) []byte { return k.feed })
}

const (
	meetingPrefix = "meeting"
	replyPrefix   = "reply"
	backPrefix    = "back"
	invitePrefix  = "invite"
)

// MeetingAddress is who writes about a meeting, organises it in everybody's
// calendar, and takes answers: one for all who are invited.
func (s *Seal) MeetingAddress(meeting uuid.UUID, domain string) string {
	return meetingPrefix + "-" + sign(s.meeting, meeting) + "@" + domain
}

// ReturnAddress takes what mail servers report of one message: the sender of its envelope.
func (s *Seal) ReturnAddress(dispatch uuid.UUID, domain string) string {
	return backPrefix + "-" + sign(s.back, dispatch) + "@" + domain
}

// InvitationAddress takes what people outside invite somebody to; with uuid.Nil it is that of the
// house, which takes invitations to everybody whom they name.
func (s *Seal) InvitationAddress(person uuid.UUID, domain string) string {
	return invitePrefix + "-" + sign(s.invite, person) + "@" + domain
}

// Mailbox is what an address of the mail domain stands for. All are uuid.Nil where the
// secret part is missing or wrong: it is a mailbox all the same, and proves nothing.
// Dispatch is the message that something is reported of, Person who is invited by people outside;
// with House it is everybody whom the mail names.
type Mailbox struct {
	Meeting, Participant, Dispatch, Person uuid.UUID
	House                                  bool
}

// Mailbox reads an address; it fails with ErrNotFound for one that never was ours.
func (s *Seal) Mailbox(address, domain string) (box Mailbox, err error) {
	at := strings.LastIndexByte(address, '@')
	if at < 0 || !strings.EqualFold(address[at+1:], domain) {
		return box, ErrNotFound
	}
	kind, token, _ := strings.Cut(strings.ToLower(address[:at]), "-")
	switch kind {
	case meetingPrefix:
		box.Meeting, _ = s.verified(token, func(k keys) []byte { return k.meeting })
	case backPrefix:
		box.Dispatch, _ = s.verified(token, func(k keys) []byte { return k.back })
	case invitePrefix:
		if box.Person, err = s.verified(token, func(k keys) []byte { return k.invite }); err != nil {
			return box, err
		}
		box.House = box.Person == uuid.Nil
	case replyPrefix: // once given out for answers, and for what is returned
		box.Participant, _ = s.verified(token, func(k keys) []byte { return k.reply })
	default:
		return box, ErrNotFound
	}
	return box, nil
}

// sealMark begins what is sealed with a key that has a name; what was sealed before keys had
// names begins with a nonce.
var sealMark = []byte("jk1")

var errSealed = errors.New("sealed with another secret")

// Lock seals what must not be read at rest (AES-256-GCM; the name of the key and the nonce in
// front).
func (s *Seal) Lock(plain []byte) []byte {
	nonce := make([]byte, s.box.NonceSize())
	rand.Read(nonce)
	front := slices.Concat(sealMark, s.id[:])
	return append(slices.Concat(front, nonce), s.box.Seal(nil, nonce, plain, front)...)
}

// Unlock opens what Lock sealed, now or under a secret of before.
func (s *Seal) Unlock(sealed []byte) ([]byte, error) {
	front := len(sealMark) + len(s.id)
	for _, k := range s.all() {
		n := k.box.NonceSize()
		if len(sealed) >= front+n && bytes.HasPrefix(sealed, sealMark) && bytes.Equal(sealed[len(sealMark):front], k.id[:]) {
			if plain, err := k.box.Open(nil, sealed[front:front+n], sealed[front+n:], sealed[:front]); err == nil {
				return plain, nil
			}
		}
		if len(sealed) >= n {
			if plain, err := k.box.Open(nil, sealed[:n], sealed[n:], nil); err == nil {
				return plain, nil
			}
		}
	}
	return nil, errSealed
}

// Reseal gives what was sealed under a secret of before as the one of now seals it, and nil for
// what is sealed with that already.
func (s *Seal) Reseal(sealed []byte) ([]byte, error) {
	if bytes.HasPrefix(sealed, slices.Concat(sealMark, s.id[:])) {
		return nil, nil
	}
	plain, err := s.Unlock(sealed)
	if err != nil {
		return nil, err
	}
	return s.Lock(plain), nil
}

func TokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// SessionID names a session where its token must not be told.
func SessionID(token string) uuid.UUID { return uuid.UUID(TokenHash(token)[:16]) }

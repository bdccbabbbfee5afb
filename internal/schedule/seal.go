package schedule

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base32"
	"errors"
	"strings"

	"github.com/google/uuid"
)

// Seal makes addresses that nobody can guess, and keeps secrets at rest. It
// needs nothing stored: every instance with the same secret agrees.
type Seal struct {
	guest, reply, meeting, feed []byte
	box                         cipher.AEAD
}

// NewSeal derives its keys from a secret of at least 16 bytes.
func NewSeal(secret []byte) (*Seal, error) {
	if len(secret) < 16 {
		return nil, errors.New("the secret needs at least 16 bytes")
	}
	key := func(purpose string) ([]byte, error) { return hkdf.Key(sha256.New, secret, nil, "jembro "+purpose, 32) }
	guest, err := key("guest page")
	if err != nil {
		return nil, err
	}
	reply, err := key("reply address")
	if err != nil {
		return nil, err
	}
	meeting, err := key("meeting address")
	if err != nil {
		return nil, err
	}
	feed, err := key("busy times")
	if err != nil {
		return nil, err
	}
	tokens, err := key("tokens at rest")
	if err != nil {
		return nil, err
	}
	block, err := aes.NewCipher(tokens)
	if err != nil {
		return nil, err
	}
	box, err := cipher.NewGCM(block)
	return &Seal{guest: guest, reply: reply, meeting: meeting, feed: feed, box: box}, err
}

// Mail servers may change the case of an address, so the letters are all small.
var letters = base32.StdEncoding.WithPadding(base32.NoPadding)

const macBytes = 12

func sign(key []byte, id uuid.UUID) string {
	mac := hmac.New(sha256.New, key)
	mac.Write(id[:])
	return strings.ToLower(letters.EncodeToString(append(id[:], mac.Sum(nil)[:macBytes]...)))
}

func verify(key []byte, token string) (uuid.UUID, error) {
	raw, err := letters.DecodeString(strings.ToUpper(token))
	if err != nil || len(raw) != 16+macBytes {
		return uuid.Nil, ErrNotFound
	}
	id := uuid.UUID(raw[:16])
	if !hmac.Equal([]byte(sign(key, id)), []byte(strings.ToLower(token))) {
		return uuid.Nil, ErrNotFound
	}
	return id, nil
}

// GuestToken names the page of a participant: 45 letters and digits.
func (s *Seal) GuestToken(participant uuid.UUID) string { return sign(s.guest, participant) }

// Guest is whose page a token names; it fails with ErrNotFound.
func (s *Seal) Guest(token string) (uuid.UUID, error) { return verify(s.guest, token) }

// FeedToken names the secret address of somebody's busy times: 45 letters and digits.
func (s *Seal) FeedToken(feed uuid.UUID) string { return sign(s.feed, feed) }

// Feed is which address a token names; it fails with ErrNotFound.
func (s *Seal) Feed(token string) (uuid.UUID, error) { return verify(s.feed, token) }

const (
	meetingPrefix = "meeting"
	replyPrefix   = "reply"
)

// MeetingAddress is who writes about a meeting, organises it in everybody's
// calendar, and takes answers: one for all who are invited.
func (s *Seal) MeetingAddress(meeting uuid.UUID, domain string) string {
	return meetingPrefix + "-" + sign(s.meeting, meeting) + "@" + domain
}

// ReturnAddress takes what mail servers return of messages to a participant.
func (s *Seal) ReturnAddress(participant uuid.UUID, domain string) string {
	return replyPrefix + "-" + sign(s.reply, participant) + "@" + domain
}

// Mailbox is what an address of the mail domain stands for. Meeting is uuid.Nil, and
// Participant too, where the secret part is missing or wrong: it is a mailbox all
// the same, and proves nothing.
type Mailbox struct{ Meeting, Participant uuid.UUID }

// Mailbox reads an address; it fails with ErrNotFound for one that never was ours.
func (s *Seal) Mailbox(address, domain string) (box Mailbox, err error) {
	at := strings.LastIndexByte(address, '@')
	if at < 0 || !strings.EqualFold(address[at+1:], domain) {
		return box, ErrNotFound
	}
	kind, token, _ := strings.Cut(strings.ToLower(address[:at]), "-")
	switch kind {
	case meetingPrefix:
		box.Meeting, _ = verify(s.meeting, token)
	case replyPrefix: // once given out as the address for answers as well
		box.Participant, _ = verify(s.reply, token)
	default:
		return box, ErrNotFound
	}
	return box, nil
}

// Lock seals what must not be read at rest (AES-256-GCM, nonce in front).
func (s *Seal) Lock(plain []byte) []byte {
	nonce := make([]byte, s.box.NonceSize())
	rand.Read(nonce)
	return s.box.Seal(nonce, nonce, plain, nil)
}

// Unlock opens what Lock sealed.
func (s *Seal) Unlock(sealed []byte) ([]byte, error) {
	n := s.box.NonceSize()
	if len(sealed) < n {
		return nil, errors.New("sealed with another secret")
	}
	plain, err := s.box.Open(nil, sealed[:n], sealed[n:], nil)
	if err != nil {
		return nil, errors.New("sealed with another secret")
	}
	return plain, nil
}

func TokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// SessionID names a session where its token must not be told.
func SessionID(token string) uuid.UUID { return uuid.UUID(TokenHash(token)[:16]) }

package mail

import (
	"bytes"
	"crypto"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"encoding/base64"
	"encoding/pem"
	"errors"
	"fmt"
	"net/mail"
	"os"
	"strings"

	"github.com/emersion/go-msgauth/dkim"
)

// Signer signs what goes out in the name of the mail domain (DKIM, RFC 6376): who reads it can
// tell that it comes from here.
type Signer struct {
	Domain, Selector string
	key              *rsa.PrivateKey
}

// keyBits is what RFC 8301, 3.2 asks of who signs.
const keyBits = 2048

// signed are the headers that a signature holds (RFC 6376, 5.4.1).
var signed = []string{"From", "Reply-To", "Subject", "Date", "To", "Message-ID", "In-Reply-To", "References", "MIME-Version", "Content-Type", "Auto-Submitted", "List-Unsubscribe"}

// NewKey makes a key, as it is kept in a file.
func NewKey() ([]byte, error) {
	key, err := rsa.GenerateKey(rand.Reader, keyBits)
	if err != nil {
		return nil, err
	}
	der, err := x509.MarshalPKCS8PrivateKey(key)
	return pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: der}), err
}

// ReadSigner reads the key that a domain signs with from a file: RSA in PEM, as PKCS 8 or PKCS 1.
func ReadSigner(domain, selector, file string) (*Signer, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	block, _ := pem.Decode(raw)
	if block == nil {
		return nil, fmt.Errorf("%s holds no key in PEM", file)
	}
	s := &Signer{Domain: domain, Selector: selector}
	if s.key, err = x509.ParsePKCS1PrivateKey(block.Bytes); err != nil {
		any, err := x509.ParsePKCS8PrivateKey(block.Bytes)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
		key, is := any.(*rsa.PrivateKey)
		if !is {
			return nil, fmt.Errorf("%s holds no RSA key", file)
		}
		s.key = key
	}
	if bits := s.key.N.BitLen(); bits < keyBits/2 {
		return nil, fmt.Errorf("%s holds a key of %d bits: nobody believes one that short", file, bits)
	}
	return s, nil
}

// Name is the name of the TXT record that Record is to stand at.
func (s *Signer) Name() string { return s.Selector + "._domainkey." + s.Domain }

// Record is what is to stand in the DNS, so that others can check signatures.
func (s *Signer) Record() (string, error) {
	der, err := x509.MarshalPKIXPublicKey(s.key.Public())
	return "v=DKIM1; k=rsa; p=" + base64.StdEncoding.EncodeToString(der), err
}

// sign gives a mail back with a signature, or as it is where it is not from the domain.
func (s *Signer) sign(raw []byte) ([]byte, error) {
	if s == nil {
		return raw, nil
	}
	m, err := mail.ReadMessage(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	from, err := mail.ParseAddress(m.Header.Get("From"))
	if err != nil {
		return nil, errors.New("the mail names no sender")
	}
	if !strings.EqualFold(from.Address[strings.LastIndexByte(from.Address, '@')+1:], s.Domain) {
		return raw, nil
	}
	var out bytes.Buffer
	err = dkim.Sign(&out, bytes.NewReader(raw), &dkim.SignOptions{Domain: s.Domain, Selector: s.Selector, Signer: s.key, Hash: crypto.SHA256,
		HeaderCanonicalization: dkim.CanonicalizationRelaxed, BodyCanonicalization: dkim.CanonicalizationRelaxed, HeaderKeys: signed})
	return out.Bytes(), err
}

package mail

// Sign is what every mail goes through on its way out.
func Sign(s *Signer, raw []byte) ([]byte, error) { return s.sign(raw) }

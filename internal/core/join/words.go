package join

import (
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	ahocorasick "github.com/BobuSumisu/aho-corasick"
)

// kind is what a word tells about what stands beside it, one bit each.
type kind uint16

const (
	wayWord    kind = 1 << iota // the link after it leads into a call
	restWord                    // the link after it does not
	dialWord                    // a phone number after it is dialled for the call
	phoneWord                   // a phone number after it is dialled, if there is a call at all
	ownWord                     // a phone number after it is somebody's own
	hostWord                    // for the organiser only
	secretWord                  // a passcode
	accessWord                  // a code that is a passcode, a PIN or the number of the call
	pinWord                     // a PIN for phones
	numberWord                  // the number of the call
	otherWord                   // the number of something else
)

// trade are the words of the trade in the languages that invitations come in (common
// practice, no source), in lower case; | is where a word has to begin or end.
var trade = map[kind]string{
	wayWord: `|join;meeting link;video call;videocall;video link;video conf;teilnehm;beitret;zur besprechung;zur sitzung;zur videokonferenz;
		rejoindre;participe;participa;unirse;únase;unase;|entra;acceder;aceder;ingressa;deelnem;neem deel;partecipa;accedi;collegat;
		dołącz;dolacz;|delta|;anslut;tilslut;deltag;liity;připojit;pripojit;csatlakoz;katıl;katil;присоедин;подключ;参加;加入;참여;
		call:;meeting:;conference:;besprechung:;réunion:;réunion :;reunión:;reunião:;riunione:;spotkanie:;vergadering:`,
	restWord: `agenda;minutes;|note|;|notes|;document;slides;folien;unterlagen;protokoll;recording;aufzeichnung;enregistrement;grabaci;gravaç;
		|map|;directions;anfahrt;lageplan;|help|;|hilfe;|aide|;|ayuda;|ajuda;|hulp|;|aiuto;|pomoc;learn more;more info;mehr info;mehr erfahren;
		en savoir;más informaci;mas informaci;mais informa;local number;other number;phone numbers;find a;numbers in;weitere nummern;
		weitere einwahl;telefonnummern;ortsnummer;numéros locaux;numéros internationaux;|reset;zurücksetzen;|options;optionen;unsubscribe;
		abmelden;privacy;datenschutz;|legal;|test your;|test the;system test;systemtest;download;installier;website;homepage;survey;umfrage;
		feedback;ticket;share file;shared file;shared folder;资料;資料;議事録`,
	dialWord: `|dial;one-tap;one tap;by phone;by telephone;audio only;|call in|;einwahl;einwähl;telefonisch;per telefon;par téléphone;composer;
		marcar;por teléfono;por telefone;|ligar;|discar;inbellen;|chiama;zadzwo;telefonicznie;|ring in;via telefon;電話;拨打;电话;по телефону`,
	phoneWord: `phone;téléphon;telefon;teléfon;|tel|;|bridge|;telefoon;puhelin;телефон`,
	ownWord:   `|mobile|;|mob|;|cell|;|fax|;|handy|;|mobil|;|portable|;|móvil|;|movil|;|telemóvel|;|celular|;|cellulare|;komórk`,
	hostWord:  `organis;organiz;|host;moderat;gastgeber;leiter;hôte|;|hote|;animateur;anfitri;presid;gospodarz;prowadz;ospitante;|värd;|vært;|chair;|leader;主催;ホスト;主持;ведущ`,
	secretWord: `passcode;pass code;password;pass word;|pwd|;kenncode;kennwort;passwort;mot de passe;code secret;contraseña;contrasena;|clave;senha;
		palavra-passe;palavra passe;wachtwoord;hasło;|haslo;passord;lösenord;losenord;adgangskode;heslo;jelsz;парол;パスコード;パスワード;密码;密碼;
		암호;비밀번호;parola;şifre;salasana;chiave;código de segurança`,
	accessWord: `access code;accesscode;security code;entry code;zugangscode;zugriffscode;code d'accès;code d’accès;code d'acces;código de acceso;
		código de acesso;codigo de acceso;codigo de acesso;toegangscode;codice di accesso;codice d'accesso;codice d’accesso;kod dostępu;åtkomstkod;tilgangskode;přístupový kód;pääsykoodi;hozzáférési kód;erişim kodu;код доступа;アクセスコード;访问码;액세스 코드`,
	pinWord: `|pin|;|pincode|;|pinkod;|pin-code|;|pin code|;phone id;phone conference id;|conference id;conference code;konferenz-id;konferenzid;konferenzkennung;participant code;participant id;
		teilnehmercode;teilnehmerkennung;code de conférence;code conférence;código de conferencia;código de la conferencia;conferentie-id;暗証番号`,
	numberWord: `|id|;-id|;ミーティングid;|number|;nummer|;|numéro|;|numero|;|número|;|numer|;identyfikator;identificativo;идентификатор;番号;|nr|;№;会议号;會議號;kennung|;tunnus`,
	otherWord: `order;invoice;rechnung;bestell;auftrag;tracking;flight;flug;kunden;customer;account;konto;|case;vorgang;ticket;facture;commande;
		factura;pedido;fatura;encomenda;factuur;fattura;ordine;faktur;zamówieni;|vat|;|ust;|iban|;booking;buchung;réservation;reserva;|loan`,
}

type tradeWord struct {
	kind        kind
	begins, end bool
}

// readers gives what finds all words of the trade in one pass, however many there are, and the
// words in the order in which its patterns are numbered. It is made when it is first
// needed, not at every start.
var readers = sync.OnceValues(func() (*ahocorasick.Trie, [][]tradeWord) {
	var all [][]tradeWord // by pattern: one word can stand in several lists
	seen := map[string]int{}
	build := ahocorasick.NewTrieBuilder()
	for k := wayWord; k <= otherWord; k <<= 1 {
		for w := range strings.SplitSeq(trade[k], ";") {
			w = strings.TrimSpace(w)
			bare := strings.Trim(w, "|")
			at, known := seen[bare]
			if !known {
				at = len(all)
				seen[bare] = at
				all = append(all, nil)
				build.AddString(bare)
			}
			all[at] = append(all[at], tradeWord{k, strings.HasPrefix(w, "|"), strings.HasSuffix(w, "|")})
		}
	}
	return build.Build(), all
})

// hit is a word of the trade in its place.
type hit struct {
	at, end int
	kind    kind
}

// hits are the words of the trade in a text, in their order.
type hits []hit

func readWords(text string) (all hits) {
	text = lower(text)
	reader, tradeWords := readers()
	for _, m := range reader.MatchString(text) {
		at, end := int(m.Pos()), int(m.Pos())+len(m.Match())
		for _, w := range tradeWords[m.Pattern()] {
			if !(w.begins && letterBefore(text[:at]) || w.end && letterAfter(text[end:])) {
				all = append(all, hit{at, end, w.kind})
			}
		}
	}
	slices.SortStableFunc(all, func(a, b hit) int { return a.at - b.at })
	return all
}

// in are the kinds of words between two places of the text.
func (h hits) in(from, to int) (k kind) {
	at, _ := slices.BinarySearchFunc(h, from, func(h hit, from int) int { return h.at - from })
	for ; at < len(h) && h[at].at < to; at++ {
		if h[at].end <= to {
			k |= h[at].kind
		}
	}
	return k
}

// lower is a text in lower case, every character at its place.
func lower(text string) string {
	out := []byte(text)
	for i := 0; i < len(out); {
		if c := out[i]; c < utf8.RuneSelf {
			if c >= 'A' && c <= 'Z' {
				out[i] = c + 'a' - 'A'
			}
			i++
			continue
		}
		r, size := utf8.DecodeRune(out[i:])
		if small := unicode.ToLower(r); small != r && utf8.RuneLen(small) == size {
			utf8.EncodeRune(out[i:], small)
		}
		i += size
	}
	return string(out)
}

func letterBefore(s string) bool {
	r, _ := utf8.DecodeLastRuneInString(s)
	return isLetter(r)
}

func letterAfter(s string) bool {
	r, _ := utf8.DecodeRuneInString(s)
	return isLetter(r)
}

func isLetter(r rune) bool { return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r)) }

package join

import (
	"net/url"
	"regexp"
	"strings"
)

// set is a list of words for looking up.
func set(words string) map[string]bool {
	s := map[string]bool{}
	for _, w := range strings.Fields(words) {
		s[w] = true
	}
	return s
}

// What tells a way into a call from other links by its own form (common practice, no source).
var (
	joinPart  = set(`j join joining meet meeting meetings meetup call calls r room rooms conf conference video w webinar session c lobby enter launch live`)
	joinHost  = []string{"meet", "call", "conf", "video", "room", "talk", "voice", "webinar", "bridge"}
	joinQuery = set(`pwd pass passcode password pin meetingid meeting room conf roomid mtid meeting_id`)
	roomForm  = regexp.MustCompile(`^(?:\d{3,4}[-.]?\d{3,4}[-.]?\d{2,5}|\d{7,13}|[a-z]{3,4}-[a-z]{3,5}-[a-z]{3,4})$`)

	restPart = set(`doc docs document documents file files folder folders share wiki pages browse issue issues ticket tickets task tasks board boards
		map maps place spreadsheet spreadsheets presentation presentations form forms survey calendar event events help support faq legal privacy
		terms unsubscribe settings preferences options account dialin dial-in number numbers phone phones local test testroom download downloads
		recording recordings play watch news blog article articles shop product products profile user users about contact pricing repo repos pull
		commit search login signin invoice invoices order orders track tracking`)
	restLetter = set(`s d`) // "shared", "document": or the first letter of a name
	restHost   = set(`doc docs wiki map maps file files drive cloud share shop store news blog help support status mail calendar git code ticket tickets
		issue issues cdn static img survey form forms pay bank`)
	restKind = set(`pdf doc docx xls xlsx ppt pptx odt ods odp csv txt md png jpg jpeg gif svg webp zip 7z tar gz ics vcf mp3 mp4 mov webm eml msg xml
		json rtf epub dwg ttf css js`)
)

// wayIn weighs whether a link leads into a call: 2 and more it does, less than 0 it does not,
// in between only what else the text says can tell. Near are the words in front of the link,
// number the call's own where the text gives one.
func wayIn(link string, near kind, number string) (score int) {
	u, err := url.Parse(link)
	if err != nil || u.Hostname() == "" {
		return -9
	}
	parts := strings.Split(strings.Trim(strings.ToLower(u.EscapedPath()), "/"), "/")
	last := parts[len(parts)-1]
	if dot := strings.LastIndexByte(last, '.'); dot >= 0 && restKind[last[dot+1:]] {
		return -9
	}
	host, _, _ := strings.Cut(strings.ToLower(u.Hostname()), ".")
	add := func(points int, is bool) {
		if is {
			score += points
		}
	}
	add(2, near&wayWord != 0)
	add(-3, near&restWord != 0)
	joins := anyOf(joinPart, parts)
	add(2, joins)
	add(-4, anyOf(restPart, parts) || !joins && anyOf(restLetter, parts[:len(parts)-1]))
	add(-3, restHost[host])
	add(-1, host == "www") // of a page for everybody
	for _, form := range joinHost {
		if strings.Contains(strings.ToLower(u.Hostname()), form) {
			score++
			break
		}
	}
	for pair := range strings.SplitSeq(strings.ToLower(u.RawQuery), "&") {
		if key, _, _ := strings.Cut(pair, "="); joinQuery[key] {
			score++
			break
		}
	}
	for _, part := range parts {
		if roomForm.MatchString(part) {
			score++
			break
		}
	}
	add(4, len(digits(number)) > 5 && strings.Contains(digits(u.EscapedPath()+" "+u.RawQuery), digits(number)))
	add(-2, last == "" && u.RawQuery == "" && u.Fragment == "") // somebody's front page
	return score
}

func anyOf(words map[string]bool, parts []string) bool {
	for _, p := range parts {
		if words[p] {
			return true
		}
	}
	return false
}

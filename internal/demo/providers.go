package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/standin"
)

//go:embed providers/*.yaml
var descriptions embed.FS

// providers are the stand-ins for conferencing providers, in the order of their ports behind
// the first that is theirs. Every name in .localhost is the machine itself for a browser
// (RFC 6761, 6.3).
var providers = []struct {
	key, name, api string // api: where the description has it
	secrets        map[string]string
}{
	{"ostrel", "Ostrel", "api.ostrel.example", map[string]string{"client_id": standin.OstrelClientID, "client_secret": standin.OstrelClientSecret}},
	{"tamberline", "Tamberline", "bridge.tamberline.example", map[string]string{"key": standin.TamberlineKey}},
	{"kestle", "Kestle", "kestle.example", map[string]string{"user": standin.KestleUser, "password": standin.KestlePassword}},
}

const providerPort = 5 // of the first, behind Options.Port

func publicAt(port, i int) string {
	return fmt.Sprintf("http://%s.localhost:%d", providers[i].key, port+providerPort+i)
}

// Description is the description of a stand-in as the demo with that port has it.
func Description(key string, port int) (string, error) {
	for i, p := range providers {
		if p.key != key {
			continue
		}
		raw, err := descriptions.ReadFile("providers/" + key + ".yaml")
		text := strings.ReplaceAll(string(raw), "https://"+p.api, "http://"+address(port+providerPort+i))
		return strings.ReplaceAll(text, "https://"+key+".example", publicAt(port, i)), err
	}
	return "", errors.New("there is no such stand-in")
}

// startProviders serves each stand-in at a port of its own.
func (r *Running) startProviders(port int) error {
	for i, p := range providers {
		l, err := net.Listen("tcp", address(port+providerPort+i))
		if err != nil {
			return err
		}
		server := &http.Server{Handler: r.World.Provider(p.key), ReadHeaderTimeout: 10 * time.Second}
		r.providers = append(r.providers, server)
		go server.Serve(l)
	}
	return nil
}

// describeProviders puts the descriptions into use and makes some standing rooms, unless there
// are providers already.
func (r *Running) describeProviders(ctx context.Context, port int) error {
	store, service := r.Program.Store, r.Program.Deeds
	ilse, err := find(ctx, store, Ilse)
	if errors.Is(err, schedule.ErrNotFound) {
		return nil
	}
	if err == nil && !ilse.KeepsProviders {
		err = store.LetKeepProviders(ctx, Ilse, true)
	}
	if err != nil {
		return err
	}
	who := schedule.Self(ilse.ID)
	there, err := service.Links.ProvidersKept(ctx, who)
	if err != nil || len(there) > 0 {
		return err
	}
	for _, p := range providers {
		text, err := Description(p.key, port)
		if err != nil {
			return err
		}
		key, err := service.Links.AddProvider(ctx, who, p.name)
		if err == nil {
			err = service.Links.WriteProvider(ctx, who, key, 1, text)
		}
		if err == nil {
			err = service.Links.GiveSecrets(ctx, who, key, p.secrets)
		}
		if err == nil {
			err = service.Links.UseProvider(ctx, who, key, 2)
		}
		if err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
	}
	return r.standingRooms(ctx, who)
}

// standingRooms are those of Ilse Marrant and of a group, and that of the Map Room.
func (r *Running) standingRooms(ctx context.Context, who schedule.Actor) error {
	store, service := r.Program.Store, r.Program.Deeds
	people := map[string]uuid.UUID{}
	for _, name := range []string{"tome.akande", "lazaro.pinho", "hanna.voss"} {
		p, err := find(ctx, store, name+"@marrowby.example")
		if errors.Is(err, schedule.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		people[name] = p.ID
	}
	shared := func(names ...string) (out []uuid.UUID) {
		for _, n := range names {
			if id, is := people[n]; is {
				out = append(out, id)
			}
		}
		return out
	}
	for _, l := range []struct {
		slug   string
		change links.StandingChange
	}{
		{"ilse", links.StandingChange{Name: "My standing room", SharedWith: shared("tome.akande")}},
		{"loans", links.StandingChange{Name: "Loans desk", Group: true, SharedWith: shared("tome.akande", "lazaro.pinho", "hanna.voss")}},
	} {
		l.change.Provider, l.change.Room = "kestle", r.World.Kestle.Room(l.slug)
		if err := service.Links.KeepStanding(ctx, who, uuid.NewSHA1(uuid.NameSpaceURL, []byte("jembro:standing:"+l.slug)), l.change); err != nil {
			return err
		}
	}
	return store.InTx(ctx, func(tx *postgres.Tx) error {
		rooms, err := tx.Rooms(ctx, schedule.Page{Most: 100})
		if err != nil {
			return err
		}
		for _, room := range rooms {
			if room.Name != "Map Room" {
				continue
			}
			room.Link = r.World.Kestle.Room("map-room")
			if err := tx.SetRoom(ctx, room); err != nil {
				return err
			}
			card := join.Card{Kind: join.Standing, Provider: "kestle", Name: "Kestle", URL: room.Link, StandsAs: room.ID.String(), LimitPeople: 80}
			return tx.SetStandingLink(ctx, schedule.StandingLink{ID: room.ID, Kind: schedule.OfRoom, Name: room.Name, Card: card}, service.Now())
		}
		return nil
	})
}

// link makes a call at a stand-in, so that the demo's own links lead somewhere: a telephone
// bridge where by is "tamberline", else a fresh link at Ostrel.
func (r *Running) link(by, topic string, start, end time.Time) join.Card {
	if by == "tamberline" {
		b := r.World.Tamberline.Open(standin.Bridge{Subject: topic, Begins: start.Unix(), Minutes: int(end.Sub(start).Minutes())})
		card := join.Card{Provider: "tamberline", Name: "Tamberline", Version: 1, Keep: map[string]string{"id": b.ID}, URL: r.World.Tamberline.Page(b.ID),
			Number: b.ID[:3] + " " + b.ID[3:6] + " " + b.ID[6:], HostPIN: b.HostPIN, Door: join.Door{Waits: join.NobodyWaits, Speaks: join.AllSpeak}}
		for _, l := range standin.TamberlineLines() {
			phone, err := join.ReadPhone(l[1], l[0], b.ID)
			if err == nil {
				card.Phones = append(card.Phones, phone)
			}
		}
		return card
	}
	g := r.World.Ostrel.New(standin.Gathering{Topic: topic, Opens: start.Format(time.RFC3339), Closes: end.Format(time.RFC3339), Door: "guests", Owner: "Ilse Marrant"})
	return join.Card{Provider: "ostrel", Name: "Ostrel", Version: 1, Keep: map[string]string{"id": g.Ref}, URL: g.Address, Number: g.Dial, Passcode: g.Word,
		Door: join.Door{Waits: join.GuestsWait, Speaks: join.AllSpeak, Starts: join.AnybodyStarts}, LimitMinutes: 45, LimitPeople: 50}
}

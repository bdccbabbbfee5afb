package join_test

import (
	"fmt"

	"jembro/internal/core/join"
)

func ExampleRead() {
	p, found := join.Read("Rejoindre la réunion : https://quay.example/meet/48-2190\nCode secret : reed-31\nPar téléphone : +33 1 70 18 01 19, PIN 48219077#")
	fmt.Println(found, p.URL, p.Passcode)
	fmt.Println(p.Phones[0].Country, p.Phones[0].URI())
	// Output:
	// true https://quay.example/meet/48-2190 reed-31
	// FR tel:+33170180119,,48219077%23
}

func ExampleOtherWays() {
	own := &join.Card{URL: "https://ostrel.example/j/48-2190"}
	text := "Notes are at https://wiki.example/loan-31. Call: kestle.example/r/freight-desk"
	for _, way := range join.OtherWays(text, own, nil) {
		fmt.Println(way.Address)
		fmt.Println(join.Without(text, way))
	}
	// Output:
	// https://kestle.example/r/freight-desk
	// Notes are at https://wiki.example/loan-31.
}

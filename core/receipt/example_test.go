package receipt_test

import (
	"crypto/ed25519"
	"fmt"

	"orario/core/receipt"
)

func ExampleCompare() {
	key := ed25519.NewKeyFromSeed([]byte("a seed for examples, 32 bytes ok"))
	sent := receipt.File{Name: "lab.csv", Bytes: 4, SHA256: "ab12"}
	r, _ := receipt.Receipt{
		Course: "HYD 214", Attempt: 1, ReceivedAt: "2026-11-05T19:02:11Z", Files: []receipt.File{sent},
	}.Sign(key)
	public := key.Public().(ed25519.PublicKey)

	fmt.Println(receipt.Compare(r, receipt.Sent{Course: "HYD 214", Files: []receipt.File{sent}, Key: public}).Agrees)
	r.LatenessMinutes = 3
	fmt.Println(r.Check(public))
	// Output:
	// true
	// the signature does not belong to this receipt and key
}

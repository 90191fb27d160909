package web

import (
	"crypto/sha256"
	"encoding/hex"
	"net/http"

	"github.com/google/uuid"

	"largo/store"
)

// newCommand is an id for the next edit of a page.
func newCommand() string { return uuid.NewString() }

// command is the id of the page that sends a form; with it a repeated act is
// harmless.
func (f *form) command() string {
	id := f.c.PostForm("command")
	if !properID(id) {
		f.fault("", "The page sent no proper command id. Load it again.")
	}
	return id
}

func properID(id string) bool {
	parsed, err := uuid.Parse(id)
	return err == nil && parsed.String() == id // in its usual form alone
}

// edit is the id of one edit that a page makes: the same one sent twice has
// the same id, another one of the same page, sent before the page had its
// answer, has not.
func (f *form) edit() string {
	f.command()
	sum := sha256.Sum256([]byte(f.c.Request.URL.Path + "\n" + f.c.Request.PostForm.Encode()))
	id := uuid.UUID(sum[:16])
	id[6], id[8] = id[6]&0x0f|0x40, id[8]&0x3f|0x80 // as a version 4
	return id.String()
}

// act is who asks for what a form asks for.
func (f *form) act() store.Command {
	return store.Command{ID: f.edit(), Author: author(f.c), Page: f.c.PostForm("command")}
}

// contentOf is a digest of what was sent with a form.
func contentOf(r *http.Request, file []byte) string {
	sum := sha256.New()
	sum.Write([]byte(r.PostForm.Encode()))
	sum.Write([]byte{0})
	sum.Write(file)
	return hex.EncodeToString(sum.Sum(nil))
}

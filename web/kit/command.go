package kit

import (
	"crypto/sha256"
	"encoding/hex"
	"net/http"

	"github.com/google/uuid"

	"largo/store"
)

// NewCommand is an id for the next edit of a page.
func NewCommand() string { return uuid.NewString() }

// Command is the id of the page that sends a form; with it a repeated act is
// harmless.
func (f *Form) Command() string {
	id := f.Gin.PostForm("command")
	if !ProperID(id) {
		f.Fault("", "The page sent no proper command id. Load it again.")
	}
	return id
}

// ProperID tells whether a command id has the form that this program gives them.
func ProperID(id string) bool {
	parsed, err := uuid.Parse(id)
	return err == nil && parsed.String() == id // in its usual form alone
}

// edit is the id of one edit that a page makes: the same one sent twice has
// the same id, another one of the same page, sent before the page had its
// answer, has not.
func (f *Form) edit() string {
	f.Command()
	sum := sha256.Sum256([]byte(f.Gin.Request.URL.Path + "\n" + f.Gin.Request.PostForm.Encode()))
	id := uuid.UUID(sum[:16])
	id[6], id[8] = id[6]&0x0f|0x40, id[8]&0x3f|0x80 // as a version 4
	return id.String()
}

// Act is who asks for what a form asks for.
func (f *Form) Act() store.Command {
	return store.Command{ID: f.edit(), Author: Author(f.Gin), Page: f.Gin.PostForm("command")}
}

// ContentOf is a digest of what was sent with a form.
func ContentOf(r *http.Request, file []byte) string {
	sum := sha256.New()
	sum.Write([]byte(r.PostForm.Encode()))
	sum.Write([]byte{0})
	sum.Write(file)
	return hex.EncodeToString(sum.Sum(nil))
}

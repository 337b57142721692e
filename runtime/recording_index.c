/* NAME.index: where each block of a great table begins, a checksum of its bytes, and its extremes, so that it opens
 * without being read. It is made of the table and may be thrown away; whatever does not go with the table is not
 * believed, and the table is read. */
#include "block.h"
#include "recording_parts.h"

#include "files/files.h"
#include "record_name.h"

#include <glib/gstdio.h>
#include <math.h>
#include <string.h>
#include <zlib.h>

#define MAGIC       0x31786469u /* "idx1": another order of bytes is another number */
#define ROWS_LEAST  50000u      /* a table of less is read in a moment */
#define BLOCK_BYTES (64u << 20) /* at most, of one block in the table */
#define FILE_MODE   0644

/* All of the file: this, by slot whether it has a column, the blocks, their extremes, the firings, a checksum. */
typedef struct index_head {
    uint32_t magic, block_rows, columns, slots, rules;
    uint32_t description; /* checksum of NAME.json */
    uint64_t bytes;       /* of the table */
    int64_t changed_ns;   /* when the table was changed last */
    uint32_t rows, blocks, firings, torn_rows;
    char torn[256];
} index_head;

typedef struct index_block {
    uint64_t place; /* in the table */
    uint32_t bytes, checksum;
    uint32_t rows, unused;
    rgp_block_times times;
} index_block;

struct rgp_recording_index {
    index_block *block;
    uint32_t blocks, checked; /* by whoever goes on */
};

static uint32_t checksum_of(const void *bytes, gsize length)
{
    return (uint32_t)crc32(0, bytes, (uInt)length);
}

static bool is_table(const char *path, uint64_t *bytes, int64_t *changed_ns)
{
    GStatBuf is;
    const bool there = g_stat(path, &is) == 0;
    *bytes = there ? (uint64_t)is.st_size : 0;
    *changed_ns = there ? (int64_t)is.st_mtim.tv_sec * 1000000000 + is.st_mtim.tv_nsec : 0;
    return there;
}

static bool describe_table(const rgp_recording *r, index_head *head)
{
    g_autofree char *table = record_part(r->name, RECORD_TABLE), *summary = record_part(r->name, RECORD_SUMMARY);
    g_autofree char *text = NULL;
    gsize length = 0;
    *head = (index_head){.magic = MAGIC,
                         .block_rows = BLOCK_ROWS,
                         .columns = rgp_history_columns(r->history),
                         .slots = r->image->slots,
                         .rules = rgp_image_count(r->image, RGP_SECTION_RULES)};
    const bool there = rgp_file_read(summary, &text, &length, NULL) && is_table(table, &head->bytes, &head->changed_ns);
    head->description = there ? checksum_of(text, length) : 0;
    return there;
}

/* ---- writing --------------------------------------------------------------------------------------- */

static bool describe_block(const rgp_recording *r, uint32_t k, GByteArray *bytes, index_block *to)
{
    const uint64_t place = g_array_index(r->block_at, uint64_t, k), next = g_array_index(r->block_at, uint64_t, k + 1);
    const rgp_block *b = rgp_history_block(r->history, k);
    if (next - place > BLOCK_BYTES) {
        return false;
    }
    g_byte_array_set_size(bytes, (guint)(next - place));
    *to = (index_block){.place = place, .bytes = bytes->len, .rows = rgp_block_rows(b), .times = rgp_block_times_of(b)};
    const bool read = rgp_recording_table_bytes(r, place, bytes->data, bytes->len);
    to->checksum = checksum_of(bytes->data, bytes->len);
    return read;
}

static void append_extremes(const rgp_recording *r, uint32_t k, GByteArray *to)
{
    rgp_coarse coarse[BLOCK_COARSE];
    for (uint32_t i = 0; i < rgp_history_columns(r->history); i++) {
        rgp_block_coarse(rgp_history_block(r->history, k), i, coarse);
        g_byte_array_append(to, (const guint8 *)coarse, sizeof coarse);
    }
}

void rgp_recording_write_index(const rgp_recording *r)
{
    index_head head;
    const uint32_t blocks = rgp_history_blocks(r->history);
    if (r->rows < ROWS_LEAST || r->block_at->len != blocks + 1 || !describe_table(r, &head) ||
        head.bytes != g_array_index(r->block_at, uint64_t, blocks)) {
        return;
    }
    head.rows = r->rows;
    head.blocks = blocks;
    head.firings = r->firing->len;
    head.torn_rows = r->torn_rows;
    g_strlcpy(head.torn, r->torn ? r->torn : "", sizeof head.torn);
    g_autoptr(GByteArray) all = g_byte_array_new(), bytes = g_byte_array_new();
    g_byte_array_append(all, (const guint8 *)&head, sizeof head);
    g_byte_array_append(all, (const guint8 *)r->has, r->image->slots);
    bool whole = true;
    for (uint32_t k = 0; k < blocks && whole; k++) {
        index_block b;
        whole = describe_block(r, k, bytes, &b);
        g_byte_array_append(all, (const guint8 *)&b, sizeof b);
        append_extremes(r, k, all);
    }
    g_byte_array_append(all, (const guint8 *)r->firing->data, r->firing->len * (guint)sizeof(rgp_firing));
    const uint32_t sum = checksum_of(all->data, all->len);
    g_byte_array_append(all, (const guint8 *)&sum, sizeof sum);
    g_autofree char *path = record_part(r->name, RECORD_INDEX);
    if (whole) {
        /* Not handed to the disk: one that is torn is not believed. Where it cannot be written, there is none. */
        g_file_set_contents_full(path, (const char *)all->data, (gssize)all->len, G_FILE_SET_CONTENTS_NONE, FILE_MODE,
                                 NULL);
    }
}

/* ---- reading --------------------------------------------------------------------------------------- */

/* The rest of the file, taken from the front. */
typedef struct cursor {
    const char *at;
    gsize left;
} cursor;

static bool take(cursor *c, void *to, gsize bytes)
{
    if (bytes > c->left) {
        return false;
    }
    memcpy(to, c->at, bytes);
    c->at += bytes;
    c->left -= bytes;
    return true;
}

/* The head is that of this table, and of this description. */
static bool take_head(const rgp_recording *r, cursor *c, index_head *head)
{
    index_head now;
    uint32_t sum;
    if (c->left < sizeof *head + sizeof sum || !describe_table(r, &now)) {
        return false;
    }
    memcpy(&sum, c->at + c->left - sizeof sum, sizeof sum);
    c->left -= sizeof sum;
    if (sum != checksum_of(c->at, c->left) || !take(c, head, sizeof *head)) {
        return false;
    }
    head->torn[sizeof head->torn - 1] = '\0';
    return head->magic == now.magic && head->block_rows == now.block_rows && head->columns == now.columns &&
           head->slots == now.slots && head->rules == now.rules && head->description == now.description &&
           head->bytes == now.bytes && head->changed_ns == now.changed_ns && head->rows >= ROWS_LEAST &&
           head->blocks == (head->rows - 1) / BLOCK_ROWS + 1;
}

static bool is_sound(const rgp_coarse *coarse, uint32_t columns)
{
    bool sound = true;
    for (uint32_t i = 0; i < columns * BLOCK_COARSE; i++) {
        sound &= isfinite(coarse[i].least) && isfinite(coarse[i].greatest) && coarse[i].usable <= BLOCK_ROWS;
    }
    return sound;
}

/* Blocks follow each other, in the table and in time, and all but the last are full. */
static bool follows(const index_head *head, uint32_t k, const index_block *before, const index_block *b)
{
    const uint32_t rows = k + 1 < head->blocks ? BLOCK_ROWS : head->rows - k * BLOCK_ROWS;
    const uint64_t last = b->times.first_us + (uint64_t)(b->rows - 1) * b->times.even_us;
    return b->rows == rows && b->bytes <= BLOCK_BYTES && b->place + b->bytes <= head->bytes && last < (uint64_t)1e18 &&
           b->times.even_us < (uint64_t)1e12 &&
           (k == 0 || (b->place == before->place + before->bytes && b->times.first_us > before->times.first_us));
}

static void load_block(void *self, uint64_t first, uint32_t rows)
{
    rgp_recording *r = self;
    const index_block *b = &r->index->block[first / BLOCK_ROWS];
    g_autofree char *bytes = g_malloc(b->bytes + 1u);
    if (rgp_recording_table_bytes(r, b->place, bytes, b->bytes) && checksum_of(bytes, b->bytes) == b->checksum) {
        rgp_recording_read_block(r, bytes, b->bytes, (uint32_t)first);
    } else {
        r->changed = true;
    }
    (void)rows;
}

static bool take_blocks(rgp_recording *r, cursor *c, const index_head *head)
{
    g_autofree rgp_coarse *coarse = g_new(rgp_coarse, (gsize)head->columns * BLOCK_COARSE);
    r->index = g_new0(struct rgp_recording_index, 1);
    r->index->block = g_new0(index_block, head->blocks);
    r->index->blocks = head->blocks;
    for (uint32_t k = 0; k < head->blocks; k++) {
        index_block *b = &r->index->block[k];
        if (!take(c, b, sizeof *b) || !take(c, coarse, (gsize)head->columns * BLOCK_COARSE * sizeof *coarse) ||
            !is_sound(coarse, head->columns) || !follows(head, k, k > 0 ? b - 1 : NULL, b)) {
            return false;
        }
        rgp_history_promise(r->history, rgp_block_promise(head->columns, b->rows, b->times, coarse), load_block, r);
    }
    return true;
}

static bool take_firings(const rgp_recording *r, cursor *c, const index_head *head)
{
    for (uint32_t i = 0; i < head->firings; i++) {
        rgp_firing f;
        if (!take(c, &f, sizeof f) || f.rule >= head->rules || f.row >= head->rows) {
            return false;
        }
        g_array_append_val(r->firing, f);
    }
    return c->left == 0;
}

bool rgp_recording_take_index(rgp_recording *r)
{
    g_autofree char *path = record_part(r->name, RECORD_INDEX), *text = NULL;
    index_head head;
    gsize length = 0;
    if (!rgp_file_read(path, &text, &length, NULL)) {
        return false;
    }
    cursor c = {text, length};
    const bool taken = take_head(r, &c, &head) && take(&c, r->has, head.slots) && take_blocks(r, &c, &head) &&
                       take_firings(r, &c, &head) && rgp_recording_read_heading(r, r->index->block[0].place);
    for (uint32_t slot = 0; taken && slot < head.slots; slot++) {
        r->has[slot] = ((const unsigned char *)r->has)[slot] != 0;
    }
    r->rows = taken ? head.rows : 0;
    r->torn_rows = taken ? head.torn_rows : 0;
    r->torn = taken && head.torn_rows > 0 ? rgp_make_printable(g_strdup(head.torn), false) : NULL;
    return taken;
}

bool rgp_recording_check_index(rgp_recording *r)
{
    struct rgp_recording_index *index = r->index;
    if (r->changed || index->checked == index->blocks) {
        return false;
    }
    const index_block *b = &index->block[index->checked++];
    g_autofree char *bytes = g_malloc(b->bytes + 1u);
    r->changed =
        !rgp_recording_table_bytes(r, b->place, bytes, b->bytes) || checksum_of(bytes, b->bytes) != b->checksum;
    return !r->changed;
}

void rgp_recording_free_index(rgp_recording *r)
{
    if (r->index) {
        g_free(r->index->block);
        g_clear_pointer(&r->index, g_free);
    }
}

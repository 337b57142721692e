/* The state that survives a power cycle, as one block:
 *
 *   magic | version, entries | bytes of all | CRC-32 of all with this field as 0 | entries
 *
 * An entry is found again by the name of its slot, by which of the slot's stages it is of, and by the kind of that. */
#include "rigpulse/engine.h"

#include "learner.h"
#include "ops.h"

#include <string.h>

#define KEEP_MAGIC   0x1A504B52u /* "RKP" and a control byte */
#define KEEP_VERSION 1u

typedef struct keep_head {
    uint32_t magic;
    uint16_t version, entries;
    uint32_t size, checksum;
} keep_head;

typedef struct keep_entry {
    uint32_t key;
    uint16_t kind, place;
    rp_kept kept;
} keep_entry;

typedef struct keeper {
    uint32_t op;
    bool (*keep)(const void *state, rp_kept *kept);
    bool (*recall)(void *state, const rp_kept *kept);
} keeper;

#define RP_OP_KEEP(NAME, block)                                 \
    static bool keep_##NAME(const void *state, rp_kept *kept)   \
    {                                                           \
        return rp_##block##_keep(state, kept);                  \
    }                                                           \
    static bool recall_##NAME(void *state, const rp_kept *kept) \
    {                                                           \
        return rp_##block##_recall(state, kept);                \
    }
#include "ops.def"

static const keeper keepers[] = {
#define RP_OP_KEEP(NAME, block) {RP_OP_##NAME, keep_##NAME, recall_##NAME},
#include "ops.def"
};

#define KEEPERS (sizeof keepers / sizeof *keepers)

bool rp_op_keeps(uint32_t op)
{
    uint32_t kind = 0;
    while (kind < KEEPERS && keepers[kind].op != op) {
        kind++;
    }
    return kind < KEEPERS;
}

/* Called for each stage that keeps something, with its entry's key, kind and place filled in. */
typedef void visitor(void *self, void *state, keep_entry *entry);

static void visit(const rp_engine *e, visitor *call, void *self)
{
    const rp_image_keep *keep = rp_image_at(e->image, RP_SECTION_KEEPS);
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_KEEPS); i++) {
        const rp_image_run *run = rp_image_at(e->image, RP_SECTION_RUNS);
        const uint16_t *operand = rp_image_at(e->image, RP_SECTION_OPERANDS);
        uint16_t place = 0;
        for (uint32_t r = 0; r < rp_image_count(e->image, RP_SECTION_RUNS); r++) {
            uint16_t kind = 0;
            while (kind < KEEPERS && keepers[kind].op != run[r].op) {
                kind++;
            }
            for (uint32_t n = 0; n < run[r].count; n++, operand += rp_op_operands(run[r].op)) {
                if (kind < KEEPERS && operand[rp_ops[run[r].op].inputs] == keep[i].slot) {
                    keep_entry entry = {.key = keep[i].key, .kind = kind, .place = place};
                    place++;
                    call(self, e->state + run[r].state + n * run[r].state_stride, &entry);
                }
            }
        }
    }
}

typedef struct writing {
    unsigned char *block;
    uint32_t room, size;
    uint16_t entries;
} writing;

static void put_entry(void *self, void *state, keep_entry *entry)
{
    writing *w = self;
    if (!keepers[entry->kind].keep(state, &entry->kept)) {
        return;
    }
    if (w->size + sizeof *entry <= w->room) {
        memcpy(w->block + w->size, entry, sizeof *entry);
    }
    w->size += (uint32_t)sizeof *entry;
    w->entries++;
}

static uint32_t checksum_of(const unsigned char *block, uint32_t size)
{
    keep_head head;
    memcpy(&head, block, sizeof head);
    head.checksum = 0;
    return rp_crc32(rp_crc32(0, &head, sizeof head), block + sizeof head, size - (uint32_t)sizeof head);
}

rp_status rp_engine_keep(const rp_engine *e, void *block, uint32_t room, uint32_t *size)
{
    if (rp_image_count(e->image, RP_SECTION_KEEPS) == 0) {
        return RP_E_INDEX;
    }
    writing w = {.block = block, .room = room, .size = (uint32_t)sizeof(keep_head)};
    visit(e, put_entry, &w);
    *size = w.size;
    if (w.size > room) {
        return RP_E_MEMORY;
    }
    keep_head head = {KEEP_MAGIC, KEEP_VERSION, w.entries, w.size, 0};
    memcpy(block, &head, sizeof head);
    head.checksum = checksum_of(block, w.size);
    memcpy(block, &head, sizeof head);
    return RP_OK;
}

typedef struct reading {
    rp_engine *engine;
    const unsigned char *entries;
    uint32_t count, taken;
} reading;

static void take_entry(void *self, void *state, keep_entry *wanted)
{
    reading *r = self;
    for (uint32_t i = 0; i < r->count; i++) {
        keep_entry entry;
        memcpy(&entry, r->entries + i * sizeof entry, sizeof entry);
        if (entry.key != wanted->key || entry.kind != wanted->kind || entry.place != wanted->place) {
            continue;
        }
        const uint32_t *const mark = rp_learner_told(keepers[entry.kind].op, state);
        const uint32_t told = mark ? *mark : 1;
        if (keepers[entry.kind].recall(state, &entry.kept)) {
            r->taken++;
            r->engine->learners = (uint16_t)(r->engine->learners - (told ? 0 : 1));
        }
    }
}

rp_status rp_engine_recall(rp_engine *e, const void *block, uint32_t size, uint32_t *taken)
{
    keep_head head;
    *taken = 0;
    if (size < sizeof head) {
        return RP_E_SIZE;
    }
    memcpy(&head, block, sizeof head);
    if (head.magic != KEEP_MAGIC || head.version != KEEP_VERSION) {
        return RP_E_FORMAT;
    }
    if (head.size != size || size - sizeof head != head.entries * sizeof(keep_entry)) {
        return RP_E_SIZE;
    }
    if (head.checksum != checksum_of(block, size)) {
        return RP_E_DAMAGED;
    }
    reading r = {e, (const unsigned char *)block + sizeof head, head.entries, 0};
    visit(e, take_entry, &r);
    *taken = r.taken;
    return RP_OK;
}

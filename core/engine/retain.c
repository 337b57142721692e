/* The state that survives a power cycle, as one block:
 *
 *   magic | version, entries | bytes of all | CRC-32 of all with this field as 0 | entries
 *
 * An entry is found again by the name of its slot, by which of the slot's stages it is of, and by the kind of that. */
#include "program.h"

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
    rgp_retained kept;
} keep_entry;

typedef struct writing {
    unsigned char *block;
    uint32_t room, size;
    uint16_t entries;
} writing;

/* Goes on counting where there is no room, so that the caller learns how much there has to be. */
static void put_entry(void *self, const rgp__retainer *retainer)
{
    writing *w = self;
    keep_entry entry = {.key = retainer->key, .kind = retainer->kind, .place = retainer->place};
    if (!retainer->retain(retainer->state, &entry.kept)) {
        return;
    }
    if (w->size + sizeof entry <= w->room) {
        memcpy(w->block + w->size, &entry, sizeof entry);
    }
    w->size += (uint32_t)sizeof entry;
    w->entries++;
}

/* Over the head with its own field as 0, then over the entries. */
static uint32_t checksum_of(const unsigned char *block, uint32_t size)
{
    keep_head head;
    memcpy(&head, block, sizeof head);
    head.checksum = 0;
    return rgp_crc32(rgp_crc32(0, &head, sizeof head), block + sizeof head, size - (uint32_t)sizeof head);
}

rgp_status rgp_engine_retain(const rgp_engine *e, void *block, uint32_t room, uint32_t *size)
{
    if (COUNT(e, RETAINED) == 0) {
        return RGP_E_INDEX;
    }
    writing w = {.block = block, .room = room, .size = (uint32_t)sizeof(keep_head)};
    e->program->retainers(e, put_entry, &w);
    *size = w.size;
    if (w.size > room) {
        return RGP_E_MEMORY;
    }
    keep_head head = {KEEP_MAGIC, KEEP_VERSION, w.entries, w.size, 0};
    memcpy(block, &head, sizeof head);
    head.checksum = checksum_of(block, w.size);
    memcpy(block, &head, sizeof head);
    return RGP_OK;
}

typedef struct reading {
    const unsigned char *entries;
    uint32_t count, taken;
} reading;

/* An entry whose stage there is not in this rig any more is passed over; a stage without an entry begins anew. */
static void take_entry(void *self, const rgp__retainer *retainer)
{
    reading *r = self;
    for (uint32_t i = 0; i < r->count; i++) {
        keep_entry entry;
        memcpy(&entry, r->entries + i * sizeof entry, sizeof entry);
        if (entry.key == retainer->key && entry.kind == retainer->kind && entry.place == retainer->place) {
            r->taken += retainer->restore(retainer->state, &entry.kept);
        }
    }
}

/* Nothing is taken up before the whole block has been found sound: its size, its form, its checksum. */
rgp_status rgp_engine_restore(rgp_engine *e, const void *block, uint32_t size, uint32_t *taken)
{
    keep_head head;
    *taken = 0;
    if (size < sizeof head) {
        return RGP_E_SIZE;
    }
    memcpy(&head, block, sizeof head);
    if (head.magic != KEEP_MAGIC || head.version != KEEP_VERSION) {
        return RGP_E_FORMAT;
    }
    if (head.size != size || size - sizeof head != head.entries * sizeof(keep_entry)) {
        return RGP_E_SIZE;
    }
    if (head.checksum != checksum_of(block, size)) {
        return RGP_E_DAMAGED;
    }
    reading r = {(const unsigned char *)block + sizeof head, head.entries, 0};
    e->program->retainers(e, take_entry, &r);
    *taken = r.taken;
    return RGP_OK;
}

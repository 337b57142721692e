/* Frames on their way from the thread that ticks to the thread that records: one writer, one reader, no
 * lock. A full ring is a gap, never a wait. */
#ifndef RUNTIME_RING_H
#define RUNTIME_RING_H

#include "rigpulse/frame.h"

typedef struct rp_ring rp_ring;

rp_ring *rp_ring_new(size_t frame_bytes, uint32_t frames);
void rp_ring_free(rp_ring *ring);

/* The writer: a place for the next frame, its header cleared, or NULL when the ring is full; then hand it
 * over. */
rp_frame *rp_ring_begin(rp_ring *ring);
void rp_ring_commit(rp_ring *ring);

/* The number of frames that wait, and the room for them. Of either side. */
uint32_t rp_ring_waiting(const rp_ring *ring);
uint32_t rp_ring_room(const rp_ring *ring);

/* The reader: the oldest frame, or NULL when there is none; then give its place back. */
const rp_frame *rp_ring_peek(rp_ring *ring);
void rp_ring_drop(rp_ring *ring);

#endif

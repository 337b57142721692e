/* Memory that is given back as a whole. */
#include "arena.h"

#include <stdarg.h>
#include <stdalign.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define CHUNK_BYTES 65536u

typedef struct arena_chunk {
    struct arena_chunk *next;
    size_t used, room;
    alignas(16) unsigned char bytes[];
} arena_chunk;

static void add_chunk(rgp_arena *arena, size_t room)
{
    arena_chunk *chunk = calloc(1, sizeof *chunk + room);
    if (!chunk) {
        longjmp(arena->exhausted, 1);
    }
    chunk->room = room;
    chunk->next = arena->chunk;
    arena->chunk = chunk;
}

void *arena_get(rgp_arena *arena, size_t size)
{
    size = (size + 15u) & ~(size_t)15u;
    if (!arena->chunk || arena->chunk->room - arena->chunk->used < size) {
        add_chunk(arena, size > CHUNK_BYTES ? size : CHUNK_BYTES);
    }
    void *got = arena->chunk->bytes + arena->chunk->used;
    arena->chunk->used += size;
    return got;
}

char *arena_copy(rgp_arena *arena, const char *text, size_t length)
{
    char *copy = arena_get(arena, length + 1);
    memcpy(copy, text, length);
    return copy;
}

char *arena_print(rgp_arena *arena, const char *format, ...)
{
    va_list arguments, again;
    va_start(arguments, format);
    va_copy(again, arguments);
    const int length = vsnprintf(NULL, 0, format, arguments);
    va_end(arguments);
    char *text = arena_get(arena, (size_t)(length < 0 ? 0 : length) + 1);
    vsnprintf(text, (size_t)(length < 0 ? 0 : length) + 1, format, again);
    va_end(again);
    return text;
}

void *arena_grow(rgp_arena *arena, void *array, size_t element, unsigned *room)
{
    const unsigned wider = *room ? 2 * *room : 8;
    void *copy = arena_get(arena, element * wider);
    if (*room) {
        memcpy(copy, array, element * *room);
    }
    *room = wider;
    return copy;
}

void arena_free(rgp_arena *arena)
{
    arena_chunk *chunk = arena->chunk;
    while (chunk) {
        arena_chunk *next = chunk->next;
        free(chunk);
        chunk = next;
    }
    arena->chunk = NULL;
}

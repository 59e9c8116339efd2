; The boot sector of a FAT32 volume, with its second stage: sector 0, and sectors 12 to 15 of the reserved ones.
; Finds the loader in the root folder, reads it whole, and enters it. This file is sector 0, then sectors 12 to 15.
;
; Memory map
;   7C00 down   stack
;   7C00-7DFF   this sector; the parameters of the volume are in it
;   7E00-85FF   the second stage
;   9C00-9CFF   variables
;   A000-A1FF   a sector of the root folder
;   A200-A3FF   a sector of the FAT
;   20000 up    the loader, up to the firmware's data below 640 KiB
; Called by  the master boot record, at 0000:7C00, with the drive in DL.
; Calls      the loader, at 2000:0000, with the drive in DL; the boot sector stays at 0000:7C00.
; Survives   DL, as [drive].
; Structures as in the FAT specification 1.03. Sectors are of 512 bytes, counted from the volume's start.

        bits 16
        cpu 386
        org 0x7C00
%include "names.inc"

FOLDER          equ 0xA000
FAT             equ 0xA200
LOAD            equ 0x20000
SECOND_SECTOR   equ 12
SECOND_SECTORS  equ 4

SECTOR_FIELD    equ 0x7C0B
CLUSTER_FIELD   equ 0x7C0D
RESERVED        equ 0x7C0E
FAT_COUNT       equ 0x7C10
FAT_SECTORS     equ 0x7C24
FAT_FLAGS       equ 0x7C28
ROOT            equ 0x7C2C

absolute 0x9C00
data_sector     resd 1                  ; of cluster 2
fat_sector      resd 1                  ; of the FAT in use
fat_held        resd 1                  ; the sector that is at FAT
cluster_sectors resd 1
chain_left      resd 1                  ; clusters until a chain must be a ring

section .text
        jmp short start
        nop
        times 0x5A - ($ - $$) db 0      ; the volume's parameters

start:
        cli
        xor ax, ax
        mov ss, ax
        mov esp, 0x7C00
        mov ds, ax
        mov es, ax
        sti
        cld
        mov [drive], dl
        call ask_firmware
        mov eax, SECOND_SECTOR
        mov ecx, SECOND_SECTORS
        mov edi, second
        call read_sectors
        jmp second

%include "disk.inc"

        times 0x1FE - ($ - $$) db 0
        db 0x55, 0xAA

second:
        call measure
        call find_loader
        call load_file
        mov dl, [drive]
        xor dh, dh
        jmp LOAD >> 4:0

; Sets where FAT and clusters begin.
measure:
        cmp word [SECTOR_FIELD], 512
        jne damaged
        movzx eax, byte [CLUSTER_FIELD]
        test eax, eax
        jz damaged
        mov [cluster_sectors], eax
        movzx ebx, word [RESERVED]
        movzx eax, byte [FAT_COUNT]
        mul dword [FAT_SECTORS]
        add eax, ebx
        mov [data_sector], eax
        xor eax, eax
        test byte [FAT_FLAGS], 0x80     ; only one FAT is kept, and which
        jz .first
        mov al, [FAT_FLAGS]
        and al, 15
        mul dword [FAT_SECTORS]
.first:
        add eax, ebx
        mov [fat_sector], eax
        mov dword [fat_held], 0
        mov dword [chain_left], 0x10000
        ret

; Finds the loader in the root folder. Gives its first cluster in EAX, its length in bytes in ECX.
find_loader:
        mov eax, [ROOT]
.cluster:
        push eax
        call first_sector
        mov ebp, [cluster_sectors]
.sector:
        mov ecx, 1
        mov edi, FOLDER
        call read_sectors
        mov si, FOLDER
.entry:
        cmp byte [si], 0                ; no entry was ever here or behind
        je not_found
        cmp byte [si], 0xE5             ; deleted
        je .next
        test byte [si + 11], 0x18       ; part of a long name, label, or folder
        jnz .next
        push si
        mov di, loader_name
        mov cx, 11
        repe cmpsb
        pop si
        je .found
.next:
        add si, 32
        cmp si, FOLDER + 512
        jb .entry
        inc eax
        dec ebp
        jnz .sector
        pop eax
        call next_cluster
        jnc .cluster
        jmp not_found
.found:
        pop eax
        mov ax, [si + 20]
        shl eax, 16
        mov ax, [si + 26]
        mov ecx, [si + 28]
        ret

; Reads the loader: cluster EAX, length ECX.
load_file:
        push eax
        int 0x12                        ; KiB below the firmware's data
        movzx ebx, ax
        shl ebx, 10
        sub ebx, LOAD
        pop eax
        test ecx, ecx
        jz bad_size
        cmp ecx, ebx
        ja bad_size
        add ecx, 511
        shr ecx, 9
        mov edi, LOAD
.cluster:
        push eax
        push ecx
        call first_sector
        cmp ecx, [cluster_sectors]
        jbe .some
        mov ecx, [cluster_sectors]
.some:
        call read_sectors
        mov ebx, ecx
        pop ecx
        pop eax
        sub ecx, ebx
        jz .end
        shl ebx, 9
        add edi, ebx
        call next_cluster
        jc damaged
        jmp .cluster
.end:
        ret

; The first sector of cluster EAX, in EAX.
first_sector:
        sub eax, 2
        jb damaged
        mul dword [cluster_sectors]
        test edx, edx
        jnz damaged
        add eax, [data_sector]
        jc damaged
        ret

; The cluster after EAX, in EAX; carry at the end of the chain.
next_cluster:
        push ecx
        push edi
        dec dword [chain_left]
        jz damaged
        mov ebx, eax
        shr eax, 7                      ; 128 entries in a sector
        add eax, [fat_sector]
        cmp eax, [fat_held]
        je .held
        mov [fat_held], eax
        mov ecx, 1
        mov edi, FAT
        call read_sectors
.held:
        and bx, 127
        shl bx, 2
        mov eax, [FAT + bx]
        and eax, 0x0FFFFFFF
        cmp eax, 0x0FFFFFF7             ; bad; above it: the end
        je damaged
        cmp eax, 0x0FFFFFF8
        cmc
        pop edi
        pop ecx
        ret

damaged:
        mov si, line_damaged
        jmp stop_line
not_found:
        mov si, line_missing
        jmp stop_line
bad_size:
        mov si, line_size
        jmp stop_line

loader_name     db LOADER
        times 11 - LOADER_LENGTH db " "
line_damaged    db "keel: the file system is damaged", 0
line_missing    db "keel: ", LOADER, " not found", 0
line_size       db "keel: ", LOADER, " is too large or empty", 0

        times (1 + SECOND_SECTORS) * 512 - ($ - $$) db 0
